<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Item;
use App\Quality\LookAtObjects;
use App\Work\ItemStates;
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
 * @phpstan-type Row object{id: string, item_id: int, class: string, kind: string, geometry: string, answers: string, tags: string, stack: ?int, part_of: ?string, flags: string, revision: int}
 * @phpstan-type Words array{class: string, answers: array<array-key, mixed>, tags: list<string>, geometry: ?array<string, mixed>}
 */
final class RewriteMarks
{
    private const CHUNK = 2_000;

    /** Ids a statement may name. */
    private const IDS = 500;

    public function __construct(private readonly Codebooks $codebooks)
    {
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
        /** @var list<Row> $rows */
        $rows = $this->codebooks->marks($change->project_id)->where('id', '>', $change->cursor)->orderBy('id')->limit(self::CHUNK)
            ->toBase()->get(['id', 'item_id', 'class', 'kind', 'geometry', 'answers', 'tags', 'stack', 'part_of', 'flags', 'revision'])->all();
        if ($rows === []) {
            CodebookVersion::query()->create(['project_id' => $change->project_id, 'version' => $change->base + 1, 'body' => $change->body, 'mapping' => $change->mapping, 'report' => $change->report, 'note' => $change->note, 'created_by' => $change->created_by]);
            $change->update(['state' => 'done']);
            LookAtObjects::ask($change->project_id);

            return;
        }
        // most marks say the same as many others: what is said is translated once
        $known = $alike = $gone = $history = [];
        foreach ($rows as $row) {
            $key = $row->kind === Shape::Skeleton->value ? $row->id : "{$row->kind} {$row->class} {$row->answers} {$row->tags}";
            $words = $known[$key] ??= $this->translated($row, $remap);
            if ($words === 'kept') {
                continue;
            }
            $entry = ['mark_id' => $row->id, 'item_id' => $row->item_id, 'user_id' => $change->created_by, 'created_at' => now(), 'before' => self::said($row, null)];
            if ($words === 'gone') {
                $gone[$row->id] = $row->item_id;
                $history[] = $entry + ['action' => 'delete', 'after' => null, 'revision' => $row->revision + 1];
            } else {
                $alike[$key]['words'] = $words;
                $alike[$key]['ids'][] = $row->id;
                $history[] = $entry + ['action' => 'remap', 'after' => self::said($row, $words), 'revision' => $row->revision];
            }
        }
        $this->store($alike, $gone, $history);
        $change->update(['cursor' => end($rows)->id, 'done' => $change->done + count($rows), 'rewritten' => $change->rewritten + count($history)]);
    }

    /**
     * @param  array<string, array{words: Words, ids: list<string>}>  $alike
     * @param  array<string, int>  $gone  items by mark
     * @param  list<array<string, mixed>>  $history
     */
    private function store(array $alike, array $gone, array $history): void
    {
        foreach ($alike as ['words' => $words, 'ids' => $ids]) {
            $row = ['class' => $words['class'], 'answers' => json_encode((object) $words['answers']), 'tags' => json_encode($words['tags']), 'oddness' => null, 'updated_at' => now()]
                + ($words['geometry'] === null ? [] : ['geometry' => json_encode($words['geometry'], JSON_PRESERVE_ZERO_FRACTION)]);
            foreach (array_chunk($ids, self::IDS) as $some) {
                DB::table('marks')->whereIn('id', $some)->update($row);
            }
        }
        foreach (array_chunk(array_keys($gone), self::IDS) as $some) {
            DB::table('marks')->whereIn('id', $some)->update(['deleted_at' => now(), 'updated_at' => now(), 'revision' => DB::raw('revision + 1')]);
        }
        foreach (array_chunk($history, 100) as $entries) {
            DB::table('mark_history')->insert($entries);
        }
        foreach (Item::query()->whereIn('id', array_unique(array_values($gone)))->get() as $item) {
            ItemStates::refresh($item);
        }
    }

    /**
     * @param  Row  $row
     * @return Words|'kept'|'gone'
     */
    private function translated(object $row, Remap $remap): array|string
    {
        $answers = (array) json_decode($row->answers, true);
        $tags = (array) json_decode($row->tags, true);
        try {
            if ($row->kind === ItemAnswers::KIND) {
                $before = ItemAnswers::fromArray(['answers' => $answers, 'tags' => $tags]);
                $after = $remap->said($before);

                return $after->toArray() === $before->toArray() ? 'kept' : ['class' => '', 'answers' => $after->toArray()['answers'] ?? [], 'tags' => $after->tags, 'geometry' => null];
            }
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
        return ['class' => $after->class, 'answers' => is_array($data['answers'] ?? null) ? $data['answers'] : [], 'tags' => [], 'geometry' => $row->kind === Shape::Skeleton->value ? $after->geometry->toArray() : null];
    }

    /**
     * A mark, or what is said of an item, as the history keeps it.
     *
     * @param  Row  $row
     * @param  ?Words  $words  in place of its own
     */
    private static function said(object $row, ?array $words): string
    {
        $answers = $words['answers'] ?? (array) json_decode($row->answers, true);
        $fields = $row->kind === ItemAnswers::KIND
            ? ['answers' => $answers, 'tags' => $words['tags'] ?? json_decode($row->tags, true)]
            : ['id' => $row->id, 'class' => $words['class'] ?? $row->class, 'kind' => $row->kind, 'geometry' => $words['geometry'] ?? json_decode($row->geometry, true), 'answers' => $answers, 'stack' => $row->stack, 'part_of' => $row->part_of, 'flags' => json_decode($row->flags, true)];

        return (string) json_encode(array_filter($fields, static fn (mixed $value): bool => $value !== null && $value !== []), JSON_PRESERVE_ZERO_FRACTION);
    }
}
