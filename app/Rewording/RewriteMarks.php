<?php

declare(strict_types=1);

namespace App\Rewording;

use App\Items\History;
use App\Items\Keys;
use App\Items\Layers;
use App\Looks\LookAtObjects;
use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Layer;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\Remap;

/**
 * Puts the marks of a project into the words of a new codebook, a chunk a transaction, each with the place it came to: stopped
 * anywhere and run again it goes on there, and no mark is translated twice. A mark keeps its revision, since what a hand does
 * to it meanwhile is translated by the same rules; only one that is taken away counts as deleted.
 *
 * @phpstan-type Row object{id: string, item_id: int, layer_id: int, class: string, kind: string, geometry: string, answers: string, stack: ?int, part_of: ?string, flags: string, revision: int, stretches: ?string}
 * @phpstan-type Words array{class: string, answers: array<array-key, mixed>, geometry: ?array<string, mixed>}
 */
final class RewriteMarks
{
    private const CHUNK = 2_000;

    /** Ids a statement may name. */
    private const IDS = 500;

    /** Before the id of a layer, where the cursor has passed the last mark: an id of a mark begins with a digit or a capital up to 7. */
    private const SAYINGS = 'layer:';

    /** @return Builder<object> */
    public static function marks(int $project): Builder
    {
        return DB::table('marks')->where('project_id', $project)->whereNull('deleted_at');
    }

    /** Layers on which something is said of the item. @return Builder<object> */
    public static function sayings(int $project): Builder
    {
        return DB::table('layers')->where('project_id', $project)->where('revision', '>', 0);
    }

    public function __invoke(CodebookChange $change): void
    {
        $old = $change->project->codebookVersion()->codebook();
        $remap = new Remap(new Translation($old, Codebook::stored($change->body), Mapping::fromArray($change->mapping)));
        while ($change->state === 'working') {
            DB::transaction(fn () => $this->chunk($change->refresh(), $remap));
        }
    }

    private function chunk(CodebookChange $change, Remap $remap): void
    {
        // a command and the worker may both be at it: each takes the next chunk, and one of them finds it done
        if ($change->state !== 'working') {
            return;
        }
        if (str_starts_with($change->cursor, self::SAYINGS)) {
            $this->chunkOfSayings($change, $remap);

            return;
        }
        /** @var list<Row> $rows */
        $rows = self::marks($change->project_id)->where('id', '>', $change->cursor)->orderBy('id')->limit(self::CHUNK)
            ->get(['id', 'item_id', 'layer_id', 'class', 'kind', 'geometry', 'answers', 'stack', 'part_of', 'flags', 'revision', 'stretches'])->all();
        if ($rows === []) {
            $change->update(['cursor' => self::SAYINGS.'0']);

            return;
        }
        // most marks say the same as many others: what is said is translated once
        $known = $alike = $gone = $history = [];
        foreach ($rows as $row) {
            $key = $row->kind === Shape::Skeleton->value ? $row->id : "{$row->kind} {$row->class} {$row->answers}";
            $words = $known[$key] ??= $this->translated($row, $remap);
            if ($words === 'kept') {
                continue;
            }
            if ($words === 'gone') {
                $gone[$row->id] = $row->layer_id;
                $history[] = History::entry($row->item_id, $row->layer_id, $row->id, $row->revision + 1, 'delete', self::said($row, null), null, $change->created_by);
            } else {
                $alike[$key]['words'] = $words;
                $alike[$key]['ids'][] = $row->id;
                $history[] = History::entry($row->item_id, $row->layer_id, $row->id, $row->revision, 'remap', self::said($row, null), self::said($row, $words), $change->created_by);
            }
        }
        $tracks = [];
        foreach ($rows as $row) {
            if ($row->stretches !== null) {
                $tracks[$row->id] = $row->class;
            }
        }
        Keys::rewrite($tracks, $remap);
        $this->store($alike, $gone, $history);
        $change->update(['cursor' => end($rows)->id, 'done' => $change->done + count($rows), 'rewritten' => $change->rewritten + count($history)]);
    }

    /** What is said of items, after their marks; with the last of it the version comes into force. */
    private function chunkOfSayings(CodebookChange $change, Remap $remap): void
    {
        $rows = self::sayings($change->project_id)->where('id', '>', (int) substr($change->cursor, strlen(self::SAYINGS)))->orderBy('id')->limit(self::CHUNK)->get(['id', 'item_id', 'answers', 'tags', 'stretches', 'revision'])->all();
        if ($rows === []) {
            $this->comeIntoForce($change);

            return;
        }
        $history = [];
        foreach ($rows as $row) {
            try {
                $before = ItemAnswers::fromArray(['answers' => json_decode((string) $row->answers, true), 'tags' => json_decode((string) $row->tags, true), 'stretches' => json_decode((string) $row->stretches, true)]);
                $after = $remap->said($before)->toArray();
            } catch (InvalidValue $e) {
                report($e);

                continue;
            }
            if ($after !== $before->toArray()) {
                DB::table('layers')->where('id', $row->id)->update(['answers' => json_encode((object) ($after['answers'] ?? [])), 'tags' => json_encode($after['tags'] ?? []), 'stretches' => json_encode($after['stretches'] ?? []), 'updated_at' => now()]);
                $history[] = History::entry($row->item_id, $row->id, null, $row->revision, 'remap', $before->toArray(), $after, $change->created_by);
            }
        }
        History::write($history);
        $change->update(['cursor' => self::SAYINGS.end($rows)->id, 'done' => $change->done + count($rows), 'rewritten' => $change->rewritten + count($history)]);
    }

    private function comeIntoForce(CodebookChange $change): void
    {
        CodebookVersion::query()->create(['project_id' => $change->project_id, 'version' => $change->base + 1, 'body' => $change->body, 'mapping' => $change->mapping, 'report' => $change->report, 'note' => $change->note, 'created_by' => $change->created_by]);
        $change->update(['state' => 'done']);
        LookAtObjects::ask($change->project_id);
    }

    /**
     * @param  array<string, array{words: Words, ids: list<string>}>  $alike
     * @param  array<string, int>  $gone  layers by mark
     * @param  list<array<string, mixed>>  $history
     */
    private function store(array $alike, array $gone, array $history): void
    {
        foreach ($alike as ['words' => $words, 'ids' => $ids]) {
            $row = ['class' => $words['class'], 'answers' => json_encode((object) $words['answers']), 'oddness' => null, 'updated_at' => now()]
                + ($words['geometry'] === null ? [] : ['geometry' => json_encode($words['geometry'], JSON_PRESERVE_ZERO_FRACTION)]);
            foreach (array_chunk($ids, self::IDS) as $some) {
                DB::table('marks')->whereIn('id', $some)->update($row);
            }
        }
        foreach (array_chunk(array_keys($gone), self::IDS) as $some) {
            DB::table('marks')->whereIn('id', $some)->update(['deleted_at' => now(), 'updated_at' => now(), 'revision' => DB::raw('revision + 1')]);
        }
        History::write($history);
        foreach (Layer::query()->whereIn('id', array_unique(array_values($gone)))->get() as $layer) {
            Layers::count($layer);
        }
    }

    /**
     * @param  Row  $row
     * @return Words|'kept'|'gone'
     */
    private function translated(object $row, Remap $remap): array|string
    {
        $answers = (array) json_decode($row->answers, true);
        try {
            $before = Mark::fromArray(['id' => $row->id, 'class' => $row->class, 'kind' => $row->kind, 'geometry' => json_decode($row->geometry, true), 'answers' => $answers], known: true);
            $after = $remap->mark($before);
        } catch (InvalidValue $e) {
            // one mark that can't be read must not hold up a project: it stays as it is, for the check to find
            report($e);

            return 'kept';
        }
        if ($after === null || $after->equals($before)) {
            return $after === null ? 'gone' : 'kept';
        }
        $data = $after->toArray();

        // only skeletons have words in their geometry
        return ['class' => $after->class, 'answers' => is_array($data['answers'] ?? null) ? $data['answers'] : [], 'geometry' => $row->kind === Shape::Skeleton->value ? $after->geometry->toArray() : null];
    }

    /**
     * A mark as the history keeps it.
     *
     * @param  Row  $row
     * @param  ?Words  $words  in place of its own
     * @return array<string, mixed>
     */
    private static function said(object $row, ?array $words): array
    {
        $answers = $words['answers'] ?? (array) json_decode($row->answers, true);
        $fields = ['id' => $row->id, 'class' => $words['class'] ?? $row->class, 'kind' => $row->kind, 'geometry' => $words['geometry'] ?? json_decode($row->geometry, true), 'answers' => $answers, 'stack' => $row->stack, 'part_of' => $row->part_of, 'flags' => json_decode($row->flags, true)];

        return array_filter($fields, static fn (mixed $value): bool => $value !== null && $value !== []);
    }
}
