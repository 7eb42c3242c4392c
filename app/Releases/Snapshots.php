<?php

declare(strict_types=1);

namespace App\Releases;

use App\Intake\AssetStore;
use App\Models\Project;
use App\Models\Release;
use App\Models\User;
use App\Projects\Codebooks;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Formats\SkenoJson\SkenoJsonReader;
use Skeno\Core\Formats\SkenoJson\SkenoJsonWriter;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Census;
use Skeno\Core\Release\Edition as Written;
use Skeno\Core\Release\Part;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnKey;

/**
 * Freezes a project by a recipe into one Skeno JSON file (gzip), and writes the formats from that file ever after, so that what a
 * release holds never changes with the project.
 */
final class Snapshots
{
    /** Items read at a time; their marks come in one query. */
    private const CHUNK = 200;

    public function __construct(private readonly AssetStore $assets)
    {
    }

    public function begin(Project $project, ?User $user, Recipe $recipe, string $note): Release
    {
        return DB::transaction(static function () use ($project, $user, $recipe, $note): Release {
            Codebooks::mustBeSteady($project->id);

            return Release::query()->create([
                'project_id' => $project->id,
                'created_by' => $user?->id,
                'number' => (int) Release::query()->where('project_id', $project->id)->max('number') + 1,
                'recipe' => $recipe->toArray(),
                'codebook_version' => $project->codebookVersion()->version,
                'note' => $note,
                'state' => 'waiting',
                'error' => '',
            ])->refresh();
        });
    }

    /** Freezes what the project holds now. May be run again after a break: it begins anew. */
    public function freeze(Release $release): void
    {
        $release->update(['state' => 'working']);
        try {
            $project = $release->project;
            $codebook = $this->codebook($release);
            $recipe = Recipe::fromArray($release->recipe, $codebook);
            $file = $this->file($release);
            if (! is_dir(dirname($file)) && ! @mkdir(dirname($file), 0o770, true)) {
                throw new RuntimeException('the folder of the release could not be made');
            }
            $census = new Census;
            // one read transaction: the release is of one moment, whatever is edited meanwhile
            $alone = DB::connection()->transactionLevel() === 0;
            if ($alone) {
                DB::connection()->getPdo()->exec('BEGIN');
            }
            try {
                $parts = $this->parts($project, $recipe, $release->number);
                $items = function () use ($project, $recipe, $codebook, $parts, $census): iterable {
                    foreach ($this->items($project, $recipe, $codebook) as $item) {
                        $item = $item->withPart($parts[$item->path] ?? null);
                        $census->add($item);
                        yield $item;
                    }
                };
                $out = gzopen("{$file}.part", 'wb6');
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
            rename("{$file}.part", $file);
            $release->update(['state' => 'done', 'census' => $census->toArray(), 'sha256' => hash_file('sha256', $file)]);
        } catch (\Throwable $e) {
            @unlink($this->file($release).'.part');
            $release->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
    }

    /**
     * What a recipe would take now, for the page.
     *
     * @return array<string, mixed>
     */
    public function preview(Project $project, Recipe $recipe): array
    {
        $codebook = $project->codebookVersion()->codebook();
        $parts = $this->parts($project, $recipe, PHP_INT_MAX);
        $census = new Census;
        foreach ($this->items($project, $recipe, $codebook) as $item) {
            $census->add($item->withPart($parts[$item->path] ?? null));
        }

        return $census->toArray();
    }

    /**
     * Writes a frozen release in one format.
     *
     * @return array{compared: array{marks: int, items: int, differences: list<string>}, mapping: list<array{what: string, count: int}>}
     */
    public function write(Release $release, Format $format, bool $pictures, string $target, YoloLayout $layout = YoloLayout::Folders): array
    {
        $codebook = $this->codebook($release);

        return Written::write($this->dataset($release, $codebook), Recipe::fromArray($release->recipe, $codebook), $codebook, $format, $pictures, $target, [
            'project' => $release->project->name,
            'description' => $release->project->description,
            'release' => $release->number,
            'codebook_version' => $release->codebook_version,
            'snapshot_sha256' => $release->sha256,
        ], $layout);
    }

    public function file(Release $release): string
    {
        return storage_path("releases/{$release->project_id}/{$release->number}/snapshot.json.gz");
    }

    private function codebook(Release $release): Codebook
    {
        return $release->project->codebooks()->where('version', $release->codebook_version)->firstOrFail()->codebook();
    }

    private function dataset(Release $release, Codebook $codebook): Dataset
    {
        $file = $this->file($release);

        return new Dataset($release->project->name, $codebook, static fn (): iterable => SkenoJsonReader::items($file), fn (DatasetItem $item): string => $this->assets->fileOf($item->hash));
    }

    /**
     * The split, with the parts of an earlier release of the same shares and seed kept, and those that came in with the data.
     *
     * @return array<string, Part> by path
     */
    private function parts(Project $project, Recipe $recipe, int $number): array
    {
        if ($recipe->split === null) {
            return [];
        }
        $hashes = $given = [];
        foreach ($this->rows($project) as $row) {
            if ($recipe->takes(ItemState::from((string) $row->state), self::isLabelled($row), (string) $row->set_path)) {
                $hashes[(string) $row->path] = (string) $row->hash;
                if ($row->part !== null) {
                    $given[(string) $row->hash] = Part::from((string) $row->part);
                }
            }
        }
        $before = Release::query()->where('project_id', $project->id)->where('state', 'done')->where('number', '<', $number)->orderByDesc('number')->get()
            ->first(static fn (Release $release): bool => ($release->recipe['split'] ?? null) === $recipe->toArray()['split']);
        if ($before !== null) {
            foreach (SkenoJsonReader::items($this->file($before)) as $item) {
                if ($item->part !== null) {
                    $given[$item->hash] ??= $item->part;
                }
            }
        }

        return $recipe->split->assign($hashes, $given);
    }

    /** @return iterable<object{id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, hash: string, width: int, height: int, orientation: int}> in byte order of the paths */
    private function rows(Project $project): iterable
    {
        /** @var iterable<object{id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, hash: string, width: int, height: int, orientation: int}> */
        return DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->join('sets', 'sets.id', '=', 'items.set_id')
            ->where('items.project_id', $project->id)->orderBy('items.path')
            ->select('items.id', 'items.path', 'items.state', 'items.nothing', 'items.mark_count', 'items.part', 'sets.path as set_path', 'assets.hash', 'assets.width', 'assets.height', 'assets.orientation')
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
     * @param  list<object{id: int, path: string, state: string, nothing: int, mark_count: int, part: ?string, set_path: string, hash: string, width: int, height: int, orientation: int}>  $rows
     * @param  array<array-key, mixed>  $names
     * @return iterable<DatasetItem>
     */
    private function chunk(array $rows, Recipe $recipe, Codebook $codebook, array $names): iterable
    {
        $marks = $said = [];
        $found = DB::table('marks')->whereIn('item_id', array_map(static fn (object $row): int => $row->id, $rows))->where('layer', TurnKey::AGREED)->whereNull('deleted_at')
            ->select('id', 'item_id', 'class', 'kind', 'geometry', 'answers', 'stack', 'part_of', 'flags', 'tags', 'author_id', 'source', 'confidence')->orderBy('id')->get();
        foreach ($found as $mark) {
            if ($mark->kind === ItemAnswers::KIND) {
                $said[$mark->item_id] = ItemAnswers::fromArray(['answers' => json_decode((string) $mark->answers, true), 'tags' => json_decode((string) $mark->tags, true)]);

                continue;
            }
            $data = ['id' => $mark->id, 'class' => $mark->class, 'kind' => $mark->kind, 'geometry' => json_decode((string) $mark->geometry, true), 'answers' => json_decode((string) $mark->answers, true), 'stack' => $mark->stack, 'part_of' => $mark->part_of, 'flags' => json_decode((string) $mark->flags, true)] + ($mark->confidence === null ? [] : ['confidence' => (float) $mark->confidence]);
            if ($recipe->names) {
                $data['author'] = $mark->source === 'import' ? 'import' : ($names[$mark->author_id] ?? null);
            }
            $marks[$mark->item_id][] = Mark::fromArray($data, known: true);
        }
        foreach ($rows as $row) {
            $own = $marks[$row->id] ?? [];
            $labelled = $own !== [] ? Labelled::Objects : ($row->nothing === 1 ? Labelled::Nothing : Labelled::Unlabelled);
            yield $recipe->prepare(new DatasetItem($row->path, $row->width, $row->height, $row->hash, $labelled, $own, null, $row->state, $row->orientation, $said[$row->id] ?? null), $codebook);
        }
    }

    /** @param  object{nothing: int, mark_count: int}  $row */
    private static function isLabelled(object $row): bool
    {
        return $row->mark_count > 0 || $row->nothing === 1;
    }
}
