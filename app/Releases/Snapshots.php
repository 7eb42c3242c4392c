<?php

declare(strict_types=1);

namespace App\Releases;

use App\Codebooks\Codebooks;
use App\Files\AssetStore;
use App\Files\ClipStore;
use App\Files\CloudStore;
use App\Files\DocumentStore;
use App\Files\VolumeStore;
use App\Intake\TakeFrames;
use App\Items\Keys;
use App\Models\Project;
use App\Models\Release;
use App\Models\StoredText;
use App\Models\User;
use App\Support\Cancelled;
use App\Support\Refusal;
use Closure;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use Skeno\Core\Clip\FrameTable;
use Skeno\Core\Cloud\Inside;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\SkenoJson\SkenoJsonReader;
use Skeno\Core\Formats\SkenoJson\SkenoJsonWriter;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Items\Axis;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Census;
use Skeno\Core\Release\ChosenFrames;
use Skeno\Core\Release\Edition as Written;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Workflow\ItemState;

/**
 * Freezes a project by a recipe into one Skeno JSON file (gzip), and writes the formats from that file ever after, so that what a
 * release holds never changes with the project.
 */
final class Snapshots
{
    /** Items read at a time; their marks come in one query. */
    private const CHUNK = 200;

    public function __construct(private readonly AssetStore $assets, private readonly Parts $parts, private readonly ClipStore $clips, private readonly DocumentStore $documents, private readonly VolumeStore $volumes, private readonly CloudStore $clouds)
    {
    }

    /** @param  bool  $asJob  the worker freezes it; else who asks does */
    public function begin(Project $project, ?User $user, Recipe $recipe, string $note, bool $asJob = false): Release
    {
        return DB::transaction(static function () use ($project, $user, $recipe, $note, $asJob): Release {
            Codebooks::mustBeSteady($project->id);

            $release = Release::query()->create([
                'project_id' => $project->id,
                'created_by' => $user?->id,
                'number' => (int) Release::query()->where('project_id', $project->id)->max('number') + 1,
                'recipe' => $recipe->toArray(),
                'codebook_version' => $project->codebookVersion()->version,
                'note' => $note,
                'state' => 'waiting',
                'error' => '',
            ])->refresh();
            if ($asJob) {
                dispatch(new FreezeRelease($release->id));
            }

            return $release;
        });
    }

    public function cancel(Release $release): void
    {
        if (Release::query()->whereKey($release->id)->whereIn('state', ['waiting', 'working', 'failed'])->delete() === 0) {
            throw Refusal::because('release_done', 'the release is frozen; it stays');
        }
        @unlink(self::file($release).'.part');
    }

    public function retry(Release $release): Release
    {
        return DB::transaction(static function () use ($release): Release {
            if (Release::query()->whereKey($release->id)->where('state', 'failed')->update(['state' => 'waiting', 'error' => '']) === 0) {
                throw Refusal::because('not_failed', 'only what has failed can be tried again');
            }
            dispatch(new FreezeRelease($release->id));

            return $release->refresh();
        });
    }

    /**
     * Freezes what the project holds now. May be run again after a break: it begins anew.
     *
     * @throws RuntimeException when it could not be written whole; then nothing of it is left
     * @throws Cancelled when somebody has cancelled it meanwhile
     */
    public function freeze(Release $release): void
    {
        Codebooks::mustBeSteady($release->project_id);
        // words may have changed since it was asked for, when its job was lost meanwhile
        $release->update(['state' => 'working', 'error' => '', 'codebook_version' => $release->project->codebookVersion()->version]);
        $codebook = $this->codebook($release);
        $file = self::file($release);
        $part = "{$file}.part";
        if (! is_dir(dirname($file)) && ! @mkdir(dirname($file), 0o770, true)) {
            throw new RuntimeException('the folder of the release could not be made');
        }
        try {
            $census = $this->snapshot($release, $codebook, $part);
            self::mustReadBack($part, $census);
            if (! @rename($part, $file)) {
                throw new RuntimeException('the snapshot could not be put in its place');
            }
        } catch (\Throwable $e) {
            @unlink($part);
            throw $e;
        }
        if (Release::query()->whereKey($release->id)->where('state', 'working')->update(['state' => 'done', 'census' => json_encode($census->toArray()), 'sha256' => hash_file('sha256', $file)]) === 0) {
            @unlink($file);
            throw Cancelled::byHand();
        }
        $release->refresh();
    }

    private function snapshot(Release $release, Codebook $codebook, string $part): Census
    {
        $recipe = Recipe::fromArray($release->recipe, $codebook);
        $project = $release->project;
        $census = new Census;
        // one read transaction: the release is of one moment, whatever is edited meanwhile
        $alone = DB::connection()->transactionLevel() === 0;
        if ($alone) {
            DB::connection()->getPdo()->exec('BEGIN');
        }
        try {
            $parts = $this->parts->of($project, $recipe, $release->number);
            $kept = [];
            $clips = TakeFrames::clips($project->id);
            $items = function () use ($project, $recipe, $codebook, $parts, $census, $clips, &$kept): iterable {
                foreach ($this->items($project, $recipe, $codebook) as $item) {
                    $item = $item->withPart($parts[$item->path] ?? null);
                    $census->add($item);
                    if ($item->part !== null) {
                        $kept[$clips[$item->path] ?? $item->hash] = $item->part;
                    }
                    yield $item;
                }
            };
            $out = @gzopen($part, 'wb6');
            if ($out === false) {
                throw new RuntimeException('the snapshot could not be written');
            }
            SkenoJsonWriter::stream(new Dataset($project->name, $codebook, $items, static fn (): string => ''), $out);
            gzclose($out);
        } finally {
            if ($alone) {
                DB::connection()->getPdo()->exec('COMMIT');
            }
        }
        $this->parts->keep($release, $kept);

        return $census;
    }

    /** What was written is read and counted: a disk that was full, or a machine that stopped, leaves no half of a release. */
    private static function mustReadBack(string $file, Census $census): void
    {
        $read = new Census;
        try {
            foreach (SkenoJsonReader::items($file) as $item) {
                $read->add($item);
            }
        } catch (\Throwable $e) {
            throw new RuntimeException('the snapshot does not read back as it was written: is the disk full? Nothing of it was kept', 0, $e);
        }
        if ($read->toArray() !== $census->toArray()) {
            throw new RuntimeException('the snapshot does not read back as it was written: is the disk full? Nothing of it was kept');
        }
    }

    /**
     * Writes a frozen release in one format.
     *
     * @param  ?Closure(): void  $alive  called now and then; may throw to stop
     * @param  ?ChosenFrames  $frames  of clips, in a format of pictures; null: those with keys
     * @return array{compared: array{marks: int, items: int, differences: list<string>}, mapping: list<array{what: string, count: int}>}
     */
    public function write(Release $release, Format $format, bool $pictures, string $target, YoloLayout $layout = YoloLayout::Folders, ?Closure $alive = null, ?ChosenFrames $frames = null): array
    {
        $codebook = $this->codebook($release);

        return Written::write($this->dataset($release, $codebook, $alive), Recipe::fromArray($release->recipe, $codebook), $codebook, $format, $pictures, $target, [
            'project' => $release->project->name,
            'description' => $release->project->description,
            'release' => $release->number,
            'codebook_version' => $release->codebook_version,
            'snapshot_sha256' => $release->sha256,
        ], $layout, $frames, ClipStore::limits(), fn (DatasetItem $document, int $place): string => $this->documents->pageOf($document->hash, $place), fn (DatasetItem $volume, int $place): string => $this->volumes->png($volume->hash, $place), fn (DatasetItem $cloud, int $frame, array $cuboids): array => $this->clouds->inside($cloud->hash, $frame, new Inside($cuboids)));
    }

    public static function file(Release $release): string
    {
        return storage_path("releases/{$release->project_id}/{$release->number}/snapshot.json.gz");
    }

    private function codebook(Release $release): Codebook
    {
        return $release->project->codebooks()->where('version', $release->codebook_version)->firstOrFail()->codebook();
    }

    /** @param  ?Closure(): void  $alive  called now and then; may throw to stop */
    private function dataset(Release $release, Codebook $codebook, ?Closure $alive): Dataset
    {
        $file = self::file($release);
        $items = static function () use ($file, $alive): iterable {
            foreach (SkenoJsonReader::items($file) as $n => $item) {
                if ($alive !== null && $n % 500 === 0) {
                    $alive();
                }
                yield $item;
            }
        };

        return new Dataset($release->project->name, $codebook, $items, fn (DatasetItem $item): string => $item->sheets === null ? $this->assets->fileOf($item->hash) : $this->documents->original($item->hash));
    }

    /** @return iterable<object{id: int, asset_id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, sha256: string, width: int, height: int, orientation: int, facts: string, kind: string}> in byte order of the paths */
    private function rows(Project $project): iterable
    {
        /** @var iterable<object{id: int, asset_id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, sha256: string, width: int, height: int, orientation: int, facts: string, kind: string}> */
        return DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->join('sets', 'sets.id', '=', 'items.set_id')
            ->where('items.project_id', $project->id)->orderBy('items.path')
            ->select('items.id', 'items.asset_id', 'items.path', 'items.state', 'items.nothing', 'items.mark_count', 'items.part', 'sets.path as set_path', 'assets.sha256', 'assets.width', 'assets.height', 'assets.orientation', 'assets.facts', 'items.kind')
            ->get()->all();
    }

    /** @return iterable<DatasetItem> */
    private function items(Project $project, Recipe $recipe, Codebook $codebook): iterable
    {
        $names = $recipe->names ? User::query()->pluck('name', 'id')->all() : [];
        $chunk = [];
        foreach ($this->rows($project) as $row) {
            if ($recipe->takes(ItemState::from($row->state), self::isLabelled($row), $row->set_path)) {
                $chunk[] = $row;
            }
            if (count($chunk) === self::CHUNK) {
                yield from $this->chunk($chunk, $recipe, $codebook, $names);
                $chunk = [];
            }
        }
        yield from $this->chunk($chunk, $recipe, $codebook, $names);
    }

    /**
     * @param  list<object{id: int, asset_id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, sha256: string, width: int, height: int, orientation: int, facts: string, kind: string}>  $rows
     * @param  array<array-key, mixed>  $names
     * @return iterable<DatasetItem>
     */
    private function chunk(array $rows, Recipe $recipe, Codebook $codebook, array $names): iterable
    {
        $marks = $said = [];
        $ids = array_map(static fn (object $row): int => $row->id, $rows);
        foreach (DB::table('layers')->whereIn('item_id', $ids)->where('name', LayerKind::Agreed->name())->where('revision', '>', 0)->get(['item_id', 'answers', 'tags', 'stretches']) as $layer) {
            $of = ItemAnswers::fromArray(['answers' => json_decode((string) $layer->answers, true), 'tags' => json_decode((string) $layer->tags, true), 'stretches' => json_decode((string) $layer->stretches, true)]);
            if (! $of->isEmpty()) {
                $said[$layer->item_id] = $of;
            }
        }
        $found = DB::table('marks')->whereIn('item_id', $ids)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')
            ->select('id', 'item_id', 'class', 'kind', 'geometry', 'answers', 'stack', 'part_of', 'flags', 'author_id', 'source', 'confidence', 'place', 'stretches')->orderBy('id')->get();
        $keys = Keys::ofMarks(array_values($found->whereNotNull('stretches')->map(static fn (object $mark): string => (string) $mark->id)->all()));
        foreach ($found as $mark) {
            $data = ['id' => $mark->id, 'class' => $mark->class, 'kind' => $mark->kind, 'geometry' => json_decode((string) $mark->geometry, true), 'answers' => json_decode((string) $mark->answers, true), 'stack' => $mark->stack, 'part_of' => $mark->part_of, 'flags' => json_decode((string) $mark->flags, true)] + ($mark->confidence === null ? [] : ['confidence' => (float) $mark->confidence])
                + ($mark->place === null ? [] : ['place' => $mark->place])
                + ($mark->stretches === null ? [] : ['stretches' => json_decode((string) $mark->stretches, true)]);
            if ($recipe->names) {
                $data['author'] = $mark->source === 'import' ? 'import' : ($names[$mark->author_id] ?? null);
            }
            $made = Mark::fromArray($data, known: true);
            $marks[$mark->item_id][] = $made->isTrack() ? $made->through($made->place, $made->there, $keys[$made->id] ?? []) : $made;
        }
        $texts = [];
        foreach (StoredText::query()->whereIn('asset_id', array_map(static fn (object $row): int => $row->asset_id, array_filter($rows, static fn (object $row): bool => $row->kind === 'text')))->get() as $text) {
            $texts[$text->asset_id] = $text->text();
        }
        foreach ($rows as $row) {
            $own = $marks[$row->id] ?? [];
            $labelled = DatasetItem::hasObjects($own) ? Labelled::Objects : ($row->nothing === 1 ? Labelled::Nothing : Labelled::Unlabelled);
            yield $recipe->prepare(new DatasetItem($row->path, $row->width, $row->height, $row->sha256, $labelled, $own, null, $row->state, $row->orientation, $said[$row->id] ?? null, $this->axis($row), null, $texts[$row->asset_id] ?? null, ...self::sheets($row), scan: self::scan($row), frames: self::frames($row), rig: self::rig($row)), $codebook);
        }
    }

    /**
     * @param  object{kind: string, facts: string}  $row
     * @return array{?Sheets, int} of a document: its pages, and px an inch
     */
    private static function sheets(object $row): array
    {
        $facts = $row->kind === 'document' ? json_decode($row->facts, true) : null;

        return is_array($facts) ? [Sheets::fromArray($facts['sheets'] ?? null), (int) ($facts['resolution'] ?? 0)] : [null, 0];
    }

    /** @param  object{kind: string, facts: string}  $row */
    private static function scan(object $row): ?Scan
    {
        $facts = $row->kind === 'volume' ? json_decode($row->facts, true) : null;

        return is_array($facts) ? Scan::fromArray($facts['scan'] ?? null) : null;
    }

    /** @param  object{kind: string, facts: string}  $row */
    private static function frames(object $row): ?int
    {
        $facts = $row->kind === 'cloud' ? json_decode($row->facts, true) : null;

        return is_array($facts) ? (int) ($facts['frames'] ?? 1) : null;
    }

    /** @param  object{kind: string, facts: string}  $row */
    private static function rig(object $row): ?Rig
    {
        $facts = $row->kind === 'cloud' ? json_decode($row->facts, true) : null;

        return is_array($facts) && isset($facts['rig']) ? Rig::fromArray($facts['rig']) : null;
    }

    /** @param  object{kind: string, facts: string, sha256: string}  $row */
    private function axis(object $row): ?Axis
    {
        $facts = $row->kind === 'clip' ? json_decode($row->facts, true) : null;
        if (! is_array($facts)) {
            return null;
        }
        $times = null;
        if (($facts['variable'] ?? false) === true) {
            $table = $this->clips->read($row->sha256)[0];
            $times = array_map(static fn (int $ticks): float => round($ticks / FrameTable::TICKS, 6), $table->times);
        }

        return Axis::frames((int) ($facts['frames'] ?? 0), (float) ($facts['rate'] ?? 0), $times);
    }

    /** @param  object{nothing: int, mark_count: int}  $row */
    private static function isLabelled(object $row): bool
    {
        return $row->mark_count > 0 || $row->nothing === 1;
    }
}
