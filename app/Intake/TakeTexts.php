<?php

declare(strict_types=1);

namespace App\Intake;

use App\Files\TextStore;
use App\Models\Import;
use App\Models\Project;
use App\Models\Set;
use Closure;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\ComingText;
use Skeno\Core\Formats\Texts\TextsReader;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Text\Text;

/**
 * Takes a file of many texts into a project: an item each, some hundred in one transaction, with the labels the file has of them. Run again after a
 * break, texts that are there are not taken a second time.
 */
final class TakeTexts
{
    /** Texts written in one transaction. */
    private const CHUNK = 500;

    /** Bytes of texts from which on they are written, however few they are. */
    private const CHUNK_BYTES = 8_000_000;

    /** Characters of the name of a text. */
    private const NAME = 120;

    private int $taken = 0;

    private int $known = 0;

    /** @var array<string, int> of a name that was taken the number the next one gets: counted from 2 each time, 100,000 texts of one name would take hours */
    private array $next = [];

    public function __construct(private readonly TakeLabels $labels)
    {
    }

    /**
     * @param  string  $name  of the file, as the person knows it: the set its texts come into
     * @param  bool  $asLabels  what it says of its texts comes in as labels; else as suggestions
     * @param  bool  $emptyIsNothing  what a text without spans means where the file does not say
     * @param  ?Closure(int): void  $progress  told now and then how many texts have been taken; may throw to stop
     * @return array{taken: int, known: int, labels: array<string, mixed>} labels: as TakeLabels reports them, with what did not come in
     *
     * @throws UnreadableLabels when the file as a whole is not of this format, or holds no texts
     */
    public function __invoke(Project $project, Format $format, string $file, string $name, Columns $columns, bool $asLabels, bool $emptyIsNothing, bool $again = false, ?Import $import = null, ?Closure $progress = null): array
    {
        $reader = $format->texts($project->codebookVersion()->codebook(), TakeLabels::newId(...), $columns) ?? throw UnreadableLabels::because("{$format->label()} holds no texts");
        $safe = ZipSource::safePath($name) ?? throw UnreadableLabels::because("\"{$name}\" is no path within a folder");
        $set = (string) preg_replace('/\.[^.\/]+$/', '', $safe);
        [$this->taken, $this->known, $this->next] = [0, 0, []];
        $labels = $this->labels->read($project, $format, $this->reads($project, $reader, $format, $file, mb_substr($set, 0, self::NAME), $again, $progress), $asLabels, $emptyIsNothing, $import);

        return ['taken' => $this->taken, 'known' => $this->known, 'labels' => $labels];
    }

    /**
     * @param  array<string, mixed>  $one
     * @param  array<string, mixed>  $other
     * @return array<string, mixed> two reports as one
     */
    public static function together(array $one, array $other): array
    {
        foreach ($other as $key => $value) {
            $before = $one[$key] ?? 0;
            $one[$key] = is_array($value) && is_array($before) ? [...$before, ...$value] : (is_int($value) && is_int($before) ? $before + $value : $value);
        }

        return $one;
    }

    /**
     * Stores what comes and goes on with its labels, chunk by chunk.
     *
     * @param  ?Closure(int): void  $progress
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function reads(Project $project, TextsReader $reader, Format $format, string $file, string $set, bool $again, ?Closure $progress): iterable
    {
        $chunk = [];
        $number = $bytes = 0;
        foreach ($reader->texts($file) as $coming) {
            if (! $coming instanceof ComingText) {
                yield $coming;

                continue;
            }
            $number++;
            $objection = self::objection($coming->text);
            if ($objection !== null) {
                yield new Skipped(basename($file), $coming->place, $objection);

                continue;
            }
            $chunk[] = [$this->path($coming, $set, $number), $coming];
            $bytes += strlen($coming->text->body);
            if (count($chunk) === self::CHUNK || $bytes >= self::CHUNK_BYTES) {
                yield from $this->store($project, $format, $chunk, $again);
                $chunk = [];
                $bytes = 0;
                if ($progress !== null) {
                    $progress($this->taken + $this->known);
                }
            }
        }
        yield from $this->store($project, $format, $chunk, $again);
    }

    private static function objection(Text $text): ?string
    {
        return match (true) {
            $text->length === 0 => 'its text is empty',
            strlen($text->body) > TextStore::most() => 'its text is larger than '.round(TextStore::most() / 1e6, 1).' MB',
            // (the database takes it for the end)
            str_contains($text->body, "\0") => 'its text holds null characters',
            default => null,
        };
    }

    private function path(ComingText $coming, string $set, int $number): string
    {
        $safe = $coming->name === '' ? null : ZipSource::safePath($coming->name);
        if ($safe === null || mb_strlen($safe) > self::NAME) {
            return $set.'/'.sprintf('%06d', $number);
        }

        // what names a set of its own keeps it: a release that comes back lies where it lay
        return str_contains($safe, '/') ? $safe : "{$set}/{$safe}";
    }

    /**
     * @param  list<array{string, ComingText}>  $chunk
     * @return list<ReadLabels> what the file says of those that came in, or are there already
     */
    private function store(Project $project, Format $format, array $chunk, bool $again): array
    {
        if ($chunk === []) {
            return [];
        }
        $hashes = array_map(static fn (array $one): string => TextStore::hash($one[1]->text), $chunk);
        $items = DB::transaction(fn (): array => $this->write($project, $format, $chunk, $hashes, $again));
        $reads = [];
        foreach ($chunk as $i => [, $coming]) {
            [$id, $path] = $items[$i];
            if ($coming->labelled !== null && $coming->labelled !== Labelled::Unlabelled || $coming->said !== null || $coming->part !== null) {
                $reads[] = new ReadLabels(new KnownPicture($id, $path, 0, 0, null, $coming->text->length), $coming->marks, $coming->labelled, $coming->part, $coming->said);
            }
        }

        return $reads;
    }

    /**
     * @param  list<array{string, ComingText}>  $chunk
     * @param  list<string>  $hashes
     * @return list<array{int, string}> the item of each, and its path
     */
    private function write(Project $project, Format $format, array $chunk, array $hashes, bool $again): array
    {
        $now = now()->toDateTimeString();
        $assets = $this->assets($format, $chunk, $hashes, $now);
        /** @var array<int, array{int, string}> $there */
        $there = [];
        foreach (DB::table('items')->where('project_id', $project->id)->whereIntegerInRaw('asset_id', array_values($assets))->orderByDesc('id')->get(['id', 'asset_id', 'path']) as $row) {
            $there[(int) $row->asset_id] = [(int) $row->id, (string) $row->path];
        }
        $taken = DB::table('items')->where('project_id', $project->id)->whereIn('path', array_column($chunk, 0))->pluck('id', 'path')->all();
        $sets = $rows = $items = $new = [];
        foreach ($chunk as $i => [$path, $coming]) {
            $asset = $assets[$hashes[$i]];
            if (isset($there[$asset]) && (! $again || $there[$asset][1] === $path)) {
                $items[$i] = $there[$asset];
                $this->known++;

                continue;
            }
            $free = $path;
            for ($n = $this->next[$path] ?? 2; isset($taken[$free]) || ($free !== $path && DB::table('items')->where('project_id', $project->id)->where('path', $free)->exists()); $n++) {
                $free = "{$path} ({$n})";
                $this->next[$path] = $n + 1;
            }
            $taken[$free] = 0;
            $folder = dirname($free);
            $sets[$folder] ??= Set::query()->firstOrCreate(['project_id' => $project->id, 'path' => $folder === '.' ? '' : $folder])->id;
            $rows[] = ['project_id' => $project->id, 'set_id' => $sets[$folder], 'asset_id' => $asset, 'kind' => 'text', 'path' => $free, 'facts' => json_encode((object) $coming->facts), 'created_at' => $now, 'updated_at' => $now];
            // the same words twice in one file are one item
            $there[$asset] ??= [0, $free];
            $new[$free] = $i;
            $this->taken++;
        }
        DB::table('items')->insert($rows);
        $layers = [];
        foreach (DB::table('items')->where('project_id', $project->id)->whereIn('path', array_map(strval(...), array_keys($new)))->pluck('id', 'path') as $path => $id) {
            $items[$new[$path]] = [(int) $id, (string) $path];
            $layers[] = ['project_id' => $project->id, 'item_id' => (int) $id, 'kind' => LayerKind::Agreed->value, 'name' => LayerKind::Agreed->name(), 'created_at' => $now, 'updated_at' => $now];
        }
        DB::table('layers')->insert($layers);
        foreach ($items as $i => [$id, $path]) {
            $items[$i] = $id === 0 ? $items[$new[$path]] : [$id, $path];
        }
        ksort($items);

        return array_values($items);
    }

    /**
     * @param  list<array{string, ComingText}>  $chunk
     * @param  list<string>  $hashes
     * @return array<string, int> assets by hash, made where there are none
     */
    private function assets(Format $format, array $chunk, array $hashes, string $now): array
    {
        $known = DB::table('assets')->whereIn('sha256', $hashes)->pluck('id', 'sha256')->map(static fn (mixed $id): int => (int) $id)->all();
        $rows = [];
        /** @var array<string, Text> $texts */
        $texts = [];
        foreach ($chunk as $i => [, $coming]) {
            $hash = $hashes[$i];
            if (! isset($known[$hash]) && ! isset($texts[$hash])) {
                $texts[$hash] = $coming->text;
                $row = TextStore::row($coming->text, $format->value, 'UTF-8');
                $rows[] = ['sha256' => $hash, 'facts' => json_encode($row['facts']), 'created_at' => $now, 'updated_at' => $now] + $row;
            }
        }
        if ($rows === []) {
            return $known;
        }
        DB::table('assets')->insert($rows);
        $made = DB::table('assets')->whereIn('sha256', array_keys($texts))->pluck('id', 'sha256')->map(static fn (mixed $id): int => (int) $id)->all();
        TextStore::keep(array_combine(array_map(static fn (string $hash): int => $made[$hash], array_keys($texts)), array_values($texts)));

        return $known + $made;
    }
}
