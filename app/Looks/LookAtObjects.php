<?php

declare(strict_types=1);

namespace App\Looks;

use App\Files\Views;
use App\Items\SpanWords;
use App\Models\Asset;
use App\Models\MarkRow;
use App\Models\Project;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\OpenPicture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Items\RefusedFile;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Quality\ClassLooks;
use Skeno\Core\Quality\KnownLooks;
use Skeno\Core\Quality\Looks;
use Skeno\Core\Quality\WordLooks;

/** Keeps what objects, pictures and classes look like. All of it can be made again from marks and pictures. */
final class LookAtObjects
{
    /** Spans of a class by which it is known. */
    private const SPANS = 20_000;

    /** Marks taken in a chunk; also how many are read at a time when a class is learned. */
    private const CHUNK = 1000;

    /** Marks whose oddness is reset in a statement. */
    private const FORGOTTEN = 2_000;

    /** Objects a class is learned from at most, evenly over all. */
    private const EXAMPLES = 4000;

    /** A class is learned anew when it has grown or shrunk by this share. */
    private const CHANGE = 0.05;

    public function __construct(private readonly Views $views, private readonly MeasureCuboids $cuboids)
    {
    }

    /** Asks the worker to look at what is new; asked again meanwhile, it is told once. */
    public static function ask(int $project): void
    {
        $asked = DB::table('projects')->where('id', $project)->where(static fn ($query) => $query->whereNull('looks_asked_at')->orWhere('looks_asked_at', '<', now()->subMinutes(10)))->update(['looks_asked_at' => now()]);
        if ($asked > 0) {
            LookAtProject::dispatch($project)->delay(now()->addSeconds(3));
        }
    }

    /** Objects nobody has looked at yet. */
    public static function due(int $project): int
    {
        return (int) DB::table('mark_counts')->where('project_id', $project)->where('size', -1)->sum('marks');
    }

    /**
     * Looks for at most so many seconds.
     *
     * @return bool whether all is done
     */
    public function run(Project $project, float $seconds = 5.0): bool
    {
        $until = microtime(true) + $seconds;
        while ($this->objects($project->id)) {
            if (microtime(true) > $until) {
                return false;
            }
        }
        while ($this->pictures($project->id)) {
            if (microtime(true) > $until) {
                return false;
            }
        }
        $this->learn($project->id);
        $this->judge($project->id);
        $this->words($project);

        return true;
    }

    /** @return bool whether there was something to do */
    private function objects(int $project): bool
    {
        $rows = DB::table('marks')->where('project_id', $project)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')->whereNull('width')
            ->limit(self::CHUNK)->get(['id', 'item_id', 'kind', 'geometry', 'revision', 'place']);
        foreach ($rows->groupBy('item_id') as $item => $marks) {
            $asset = Asset::query()->whereIn('id', DB::table('items')->where('id', $item)->select('asset_id'))->firstOrFail();
            $vectors = $sizes = [];
            $picture = $shown = null;
            $measures = $this->cuboids->of($asset, $marks->where('kind', Shape::Cuboid->value)->values());
            foreach ($marks->sortBy('place') as $mark) {
                $measure = $measures[(string) $mark->id] ?? null;
                if ($measure !== null) {
                    $sizes[(string) $mark->id] = [$measure->length, $measure->width, (int) $mark->revision, (string) $mark->geometry];

                    continue;
                }
                if (! Shape::from((string) $mark->kind)->isFlat()) {
                    // it lies on no plane: how long it is stands for its size
                    $geometry = json_decode((string) $mark->geometry, true);
                    $sizes[(string) $mark->id] = [($geometry['end'] ?? 0) - ($geometry['start'] ?? 0), -1, (int) $mark->revision, (string) $mark->geometry];

                    continue;
                }
                $at = $mark->place === null ? -1 : (int) $mark->place;
                if ($at !== $shown) {
                    [$shown, $picture] = [$at, $this->open($asset, $at < 0 ? null : $at)];
                }
                $bounds = Shape::from((string) $mark->kind)->flat(Fields::of(json_decode((string) $mark->geometry, true)), 'geometry', true)->bounds();
                $sizes[(string) $mark->id] = [$bounds->width, $bounds->height, (int) $mark->revision, (string) $mark->geometry];
                $swatch = $bounds->isEmpty() ? null : $picture?->swatch($bounds);
                if ($swatch !== null) {
                    $vectors[] = ['mark_id' => (string) $mark->id, 'vector' => Looks::ofObject($swatch, $bounds, $asset->width, $asset->height)->pack()];
                }
            }
            DB::transaction(static function () use ($vectors, $sizes, $measures): void {
                foreach ($sizes as $id => [$width, $height, $revision, $geometry]) {
                    // redrawn while it was looked at: it is looked at once more
                    DB::table('marks')->where('id', $id)->where('revision', $revision)->where('geometry', $geometry)->update(['width' => $width, 'height' => $height]);
                }
                DB::table('looks')->upsert($vectors, ['mark_id'], ['vector']);
                foreach ($measures as $id => $measure) {
                    DB::table('cuboid_measures')->upsert(['mark_id' => $id, 'points' => $measure->points, 'distance' => $measure->distance, 'length' => $measure->length], ['mark_id']);
                }
            });
        }

        return $rows->isNotEmpty();
    }

    /** @return bool whether there was something to do */
    private function pictures(int $project): bool
    {
        $assets = Asset::query()->whereIn('id', DB::table('items')->where('project_id', $project)->select('asset_id'))->where('kind', '!=', 'text')->whereNotIn('id', DB::table('picture_looks')->select('asset_id'))->limit(100)->get();
        $vectors = [];
        foreach ($assets as $asset) {
            $vectors[] = ['asset_id' => $asset->id, 'vector' => $this->seen($asset)?->pack() ?? ''];
        }
        DB::table('picture_looks')->insertOrIgnore($vectors);

        return $vectors !== [];
    }

    /** What a picture looks like as a whole; null: it can't be read. */
    public function picture(Asset $asset): ?Looks
    {
        $vector = DB::table('picture_looks')->where('asset_id', $asset->id)->value('vector');
        if (is_string($vector)) {
            return $vector === '' ? null : Looks::unpack($vector);
        }
        $looks = $this->seen($asset);
        DB::table('picture_looks')->insertOrIgnore([['asset_id' => $asset->id, 'vector' => $looks?->pack() ?? '']]);

        return $looks;
    }

    private function seen(Asset $asset): ?Looks
    {
        try {
            $thumb = OpenPicture::of($this->views->file($asset, 'thumb'), PictureFormat::Jpeg, $asset->width);
            $swatch = $thumb->swatch($thumb->whole());
        } catch (RefusedFile $e) {
            report($e);

            return null;
        }

        return $swatch === null ? null : Looks::ofPicture($swatch);
    }

    private function open(Asset $asset, ?int $place): ?OpenPicture
    {
        try {
            return $this->views->open($asset, $place);
        } catch (RefusedFile $e) {
            // a picture that has become unreadable must not keep the others waiting
            report($e);

            return null;
        }
    }

    private function learn(int $project): void
    {
        $counts = $this->looked($project)->groupBy('marks.class')->selectRaw('marks.class as class, count(*) as n')->pluck('n', 'class');
        $known = DB::table('class_looks')->where('project_id', $project)->pluck('objects', 'class');
        $gone = $known->keys()->diff($counts->filter(static fn (mixed $n): bool => (int) $n >= ClassLooks::LEAST)->keys())->all();
        $learned = [];
        foreach ($counts as $class => $n) {
            $n = (int) $n;
            if ($n < ClassLooks::LEAST || ($known->has($class) && abs($n - (int) $known[$class]) < max(1, self::CHANGE * $n))) {
                continue;
            }
            $each = (int) ceil($n / self::EXAMPLES);
            $examples = [];
            $i = 0;
            foreach ($this->looked($project)->where('marks.class', $class)->orderBy('marks.id')->select('looks.vector')->cursor() as $row) {
                if ($i++ % $each === 0) {
                    $examples[] = Looks::unpack((string) $row->vector);
                }
            }
            $learned[] = ['project_id' => $project, 'class' => (string) $class, 'objects' => $n, 'looks' => ClassLooks::learn($examples)->pack(), 'updated_at' => now()];
        }
        if ($learned === [] && $gone === []) {
            return;
        }
        // classes are held against each other, so what one has learned concerns all. Forgotten first: stopped in the middle, it is all learned anew
        self::forget($project);
        DB::transaction(static function () use ($project, $gone, $learned): void {
            DB::table('class_looks')->where('project_id', $project)->whereIn('class', $gone)->delete();
            DB::table('class_looks')->upsert($learned, ['project_id', 'class'], ['objects', 'looks', 'updated_at']);
        });
    }

    /** No object of a project has been judged; some at a time, so that nobody who labels waits for all of them. */
    public static function forget(int $project): void
    {
        $after = 0;
        do {
            // in the order in which the rows lie; the plus keeps the database from looking for a better one each time
            $some = DB::table('marks')->whereRaw('+project_id = ?', [$project])->whereRaw('rowid > ?', [$after])->whereNotNull('oddness')->orderByRaw('rowid')->limit(self::FORGOTTEN)->selectRaw('rowid as place')->pluck('place');
            if ($some->isNotEmpty()) {
                DB::table('marks')->whereIntegerInRaw('rowid', $some->all())->update(['oddness' => null]);
            }
            $after = (int) $some->last();
        } while ($some->count() === self::FORGOTTEN);
    }

    /** How odd each object is that has not been judged by the looks its class has now. */
    private function judge(int $project): void
    {
        $known = self::known($project);
        foreach ($known->classes() as $key) {
            $after = '';
            do {
                $rows = $this->looked($project)->where('marks.class', $key)->whereNull('marks.oddness')->where('marks.id', '>', $after)->orderBy('marks.id')->limit(self::CHUNK)->get(['marks.id', 'looks.vector']);
                DB::transaction(static function () use ($rows, $known, $key): void {
                    foreach ($rows as $row) {
                        DB::table('marks')->where('id', $row->id)->where('class', $key)->update(['oddness' => round((float) $known->oddness($key, Looks::unpack((string) $row->vector)), 4)]);
                    }
                });
                $after = (string) ($rows->last()->id ?? '');
            } while ($rows->count() === self::CHUNK);
        }
    }

    /** How odd the words of each span are among those of its class, where that has not been said. */
    private function words(Project $project): void
    {
        $of = static fn (string $class) => SpanWords::query()->where('marks.project_id', $project->id)->whereRaw(MarkRow::STANDS)->where('marks.class', $class);
        foreach ($project->codebookVersion()->codebook()->classes as $class => $described) {
            if (! $described->allows(Shape::Span) || DB::table('marks')->where('project_id', $project->id)->whereRaw(MarkRow::STANDS)->where('class', $class)->whereNull('oddness')->doesntExist()) {
                continue;
            }
            $looks = new WordLooks;
            foreach (SpanWords::read($of($class)->limit(self::SPANS), 200) as $words) {
                $looks->add($words);
            }
            $after = '';
            while ($looks->isKnown()) {
                $all = SpanWords::read($of($class)->whereNull('marks.oddness')->where('marks.id', '>', $after)->orderBy('marks.id')->limit(self::CHUNK), 200);
                DB::transaction(static function () use ($all, $class, $looks): void {
                    foreach ($all as $id => $words) {
                        DB::table('marks')->where('id', $id)->where('class', $class)->update(['oddness' => round($looks->oddness($words), 4)]);
                    }
                });
                $ids = array_map(strval(...), array_keys($all));
                sort($ids, SORT_STRING);
                $after = (string) end($ids);
                if (count($all) < self::CHUNK) {
                    break;
                }
            }
        }
    }

    public static function known(int $project): KnownLooks
    {
        return new KnownLooks(DB::table('class_looks')->where('project_id', $project)->pluck('looks', 'class')->map(static fn (mixed $packed): ClassLooks => ClassLooks::unpack((string) $packed))->all());
    }

    private function looked(int $project): \Illuminate\Database\Query\Builder
    {
        return DB::table('marks')->join('looks', 'looks.mark_id', '=', 'marks.id')->where('marks.project_id', $project)->whereRaw(MarkRow::STANDS);
    }
}
