<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Item;
use App\Models\MarkRow;
use App\Work\ItemStates;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Remap;

/**
 * Puts the marks of a project into the words of a new codebook, a chunk a transaction, each with the place it came to: stopped
 * anywhere and run again it goes on there, and no mark is translated twice. A mark keeps its revision, since what a hand does
 * to it meanwhile is translated by the same rules; only one that is taken away counts as deleted.
 */
final class RewriteMarks
{
    private const CHUNK = 500;

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
        $rows = $this->codebooks->marks($change->project_id)->where('id', '>', $change->cursor)->orderBy('id')->limit(self::CHUNK)->get();
        if ($rows->isEmpty()) {
            CodebookVersion::query()->create(['project_id' => $change->project_id, 'version' => $change->base + 1, 'body' => $change->body, 'mapping' => $change->mapping, 'report' => $change->report, 'note' => $change->note, 'created_by' => $change->created_by]);
            $change->update(['state' => 'done']);

            return;
        }
        $history = $emptied = [];
        foreach ($rows as $row) {
            $entry = $row->kind === ItemAnswers::KIND ? $this->said($row, $remap) : $this->mark($row, $remap);
            if ($entry !== null) {
                $row->save();
                $history[] = $entry + ['mark_id' => $row->id, 'item_id' => $row->item_id, 'user_id' => $change->created_by, 'revision' => $row->revision, 'created_at' => now()];
                if ($row->deleted_at !== null) {
                    $emptied[$row->item_id] = true;
                }
            }
        }
        foreach (array_chunk($history, 100) as $entries) {
            DB::table('mark_history')->insert($entries);
        }
        foreach (Item::query()->whereIn('id', array_keys($emptied))->get() as $item) {
            ItemStates::refresh($item);
        }
        $change->update(['cursor' => (string) $rows->last()?->id, 'done' => $change->done + $rows->count(), 'rewritten' => $change->rewritten + count($history)]);
    }

    /** @return array{action: string, before: string|false, after: string|false|null}|null what goes into the history; null when nothing changes */
    private function mark(MarkRow $row, Remap $remap): ?array
    {
        $before = $row->mark();
        $after = $remap->mark($before);
        if ($after === null) {
            $row->fill(['deleted_at' => now(), 'revision' => $row->revision + 1]);
        } elseif ($after->equals($before)) {
            return null;
        } else {
            $row->fill(['class' => $after->class, 'geometry' => $after->geometry->toArray(), 'answers' => self::answers($after->answers)]);
        }

        return ['action' => $after === null ? 'delete' : 'remap', 'before' => json_encode($before->toArray()), 'after' => $after === null ? null : json_encode($after->toArray())];
    }

    /** @return array{action: string, before: string|false, after: string|false|null}|null */
    private function said(MarkRow $row, Remap $remap): ?array
    {
        $before = $row->said();
        $after = $remap->said($before);
        if ($after->toArray() === $before->toArray()) {
            return null;
        }
        $row->fill(['answers' => self::answers($after->answers), 'tags' => $after->tags]);

        return ['action' => 'remap', 'before' => json_encode($before->toArray()), 'after' => json_encode($after->toArray())];
    }

    /**
     * @param  array<string, Answer>  $answers
     * @return array<string, mixed>
     */
    private static function answers(array $answers): array
    {
        return array_map(static fn (Answer $answer): array => $answer->toArray(), $answers);
    }
}
