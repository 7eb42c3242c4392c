<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Items\History;
use App\Items\Layers;
use App\Items\Suggested;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Turn;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\SeenWhole;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\MarkSource;

/**
 * Where an assignment says so: suggestions from a confidence on count as looked at once a picture has been seen whole, and become labels when it is
 * submitted. They keep that a model made them, and how sure it was.
 */
final class CountAsSeen
{
    /** In the transaction that submits. @return int how many became labels */
    public function __invoke(Actor $actor, Turn $turn): int
    {
        $from = $turn->assignment?->sureFrom();
        $item = $turn->item;
        if ($from === null || $item->kind !== 'picture' || ! Seen::of($item, $actor->user->id)->isAll()) {
            return 0;
        }
        $rule = new SeenWhole($from);
        $layer = $turn->layer;
        $codebook = $turn->project->codebookVersion()->codebook();
        $suggested = Suggested::marks($item->id, $layer->id)->keyBy('id');
        $marks = $rule->marks(new MarkCheck($codebook), Layers::marks($layer), array_values($suggested->map(static fn (MarkRow $row): Mark => $row->mark())->all()), $item->extent(), $layer->said());
        $history = [];
        foreach ($marks as $mark) {
            // the worker looks at it as at any other new mark
            $row = $suggested[$mark->id]->replicate(['width', 'height', 'oddness']);
            $row->forceFill(['id' => strtoupper((string) Str::ulid()), 'layer_id' => $layer->id, 'layer' => $layer->kind->value, 'turn_id' => $turn->id, 'author_id' => $actor->user->id, 'source' => MarkSource::Model->value, 'suggestion_id' => $mark->id, 'revision' => 1])->save();
            $history[] = History::entry($item->id, $layer->id, $row->id, 1, 'create', null, $row->mark()->toArray(), $actor->user->id);
        }
        History::write($history);
        if ($marks !== []) {
            Layers::count($layer);
        }

        return count($marks) + $this->say($actor, $layer, $codebook, $rule->sayings(array_map(static fn (array $word): Saying => new Saying($word['key'], $word['answer'] === null ? null : Answer::fromArray($word['answer'], 'answer'), $word['confidence']), Suggested::words($item->id, $layer->id, $codebook))));
    }

    /**
     * Only what nobody has said anything else about is said.
     *
     * @param  list<Saying>  $sayings
     * @return int how many were said
     */
    private function say(Actor $actor, Layer $layer, Codebook $codebook, array $sayings): int
    {
        $before = $layer->said();
        [$answers, $tags] = [$before->answers, $before->tags];
        $groups = [];
        foreach ($codebook->itemTags() as $tag) {
            $groups[$tag->key] = $tag->group;
        }
        $taken = array_filter(array_map(static fn (string $tag): ?string => $groups[$tag] ?? null, $tags));
        $said = 0;
        foreach ($sayings as $saying) {
            if ($saying->answer === null && ! in_array($saying->key, $tags, true) && ! in_array($groups[$saying->key] ?? '', $taken, true)) {
                $tags[] = $saying->key;
                $said++;
            } elseif ($saying->answer !== null && ! isset($answers[$saying->key])) {
                $answers[$saying->key] = $saying->answer;
                $said++;
            }
        }
        // what is asked only after another answer goes by what is answered now
        $asked = array_map(static fn ($question): string => $question->key, $codebook->askedOfItem($answers));
        $kept = array_filter($answers, static fn (Answer $answer, string $key): bool => isset($before->answers[$key]) || in_array($key, $asked, true), ARRAY_FILTER_USE_BOTH);
        $said -= count($answers) - count($kept);
        if ($said === 0) {
            return 0;
        }
        $after = ItemAnswers::of($kept, $tags, $before->stretches)->toArray();
        $layer->fill(['answers' => $after['answers'] ?? [], 'tags' => $after['tags'] ?? [], 'revision' => $layer->revision + 1, 'author_id' => $actor->user->id, 'source' => MarkSource::Model->value])->save();
        History::write([History::entry($layer->item_id, $layer->id, null, $layer->revision, 'change', $before->toArray(), $after, $actor->user->id)]);

        return $said;
    }
}
