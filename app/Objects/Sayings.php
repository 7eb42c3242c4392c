<?php

declare(strict_types=1);

namespace App\Objects;

use App\Access\Actor;
use App\Items\AnswerQuery;
use App\Items\ItemShape;
use App\Items\SaidShape;
use App\Models\Item;
use App\Models\Layer;
use App\Models\Project;
use App\Work\Reach;
use Illuminate\Database\Eloquent\Builder;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;

/** What is said of the items of a project as a whole, item by item: for sweeps with one question about the picture, or its tags. */
final class Sayings
{
    public const MOST = 100;

    /**
     * @param  array<array-key, mixed>  $in  `question?` (about items), or `group?` (of tags) or `tag?`; `answer?` (`open`; an option, `yes`, `no`,
     *                                       `no:<way>`; of tags one of them); `set?`, `after?` (an item's id), `limit?`
     * @return array<string, mixed>
     */
    public function page(Actor $actor, Project $project, array $in): array
    {
        $query = $this->found($actor, $project, $in);
        $total = (clone $query)->count();
        $after = $in['after'] ?? null;
        if ($after !== null && $after !== '') {
            $path = is_string($after) && ctype_digit($after) ? Item::query()->where('project_id', $project->id)->whereKey((int) $after)->value('path') : null;
            $query->where('items.path', '>', is_string($path) ? $path : throw InvalidValue::at('after', $after, 'the id of an item of this project'));
        }
        $limit = filter_var($in['limit'] ?? 50, FILTER_VALIDATE_INT);
        if ($limit === false || $limit < 1 || $limit > self::MOST) {
            throw InvalidValue::at('limit', $in['limit'] ?? null, 'a whole number from 1 to '.self::MOST);
        }
        $items = $query->orderBy('items.path')->limit($limit)->with(['asset', 'set'])->get(['items.*']);
        $said = Layer::query()->whereIn('item_id', $items->modelKeys())->where('kind', LayerKind::Agreed)->get()->keyBy('item_id');

        return [
            'data' => array_values($items->map(static fn (Item $item): array => [
                'item' => ItemShape::of($item),
                'said' => SaidShape::of($said[$item->id]),
            ])->all()),
            'total' => $total,
        ];
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @return Builder<Item>
     */
    private function found(Actor $actor, Project $project, array $in): Builder
    {
        $codebook = $project->codebookVersion()->codebook();
        $query = Reach::items($actor, $project)->join('layers as said', static fn ($join) => $join->on('said.item_id', '=', 'items.id')->where('said.name', LayerKind::Agreed->name()));
        if (is_string($in['set'] ?? null)) {
            $query->whereIn('items.set_id', $project->sets()->where('path', $in['set'])->select('id'));
        }
        $answer = $in['answer'] ?? null;
        $answer = $answer === '' ? null : $answer;
        if ($answer !== null && ! is_string($answer)) {
            throw InvalidValue::at('answer', $answer, 'an answer in a word');
        }
        $key = $in['question'] ?? null;
        if (is_string($key) && $key !== '') {
            $question = $codebook->attributes[$key] ?? null;
            if ($question === null || $question->scope !== Scope::Item) {
                throw InvalidValue::at('question', $key, 'a question of the codebook about items');
            }
            $words = $question->words();
            if ($answer !== null) {
                AnswerQuery::said($query, $question, in_array($answer, $words, true) ? $answer : throw InvalidValue::at('answer', $answer, implode(', ', $words)), 'said.answers');
            }

            return $query;
        }
        $tags = array_values(array_filter(array_keys($codebook->tags), static fn (string $tag): bool => $tag === ($in['tag'] ?? null) || (isset($in['group']) && $codebook->tags[$tag]->group === $in['group'])));
        if ($tags === []) {
            throw InvalidValue::at('group', $in['group'] ?? $in['tag'] ?? null, 'a question about items, a group of tags, or a tag of the codebook');
        }
        if ($answer === 'open') {
            $query->where(static function (Builder $none) use ($tags): void {
                $none->whereNull('said.tags')->orWhere(static function (Builder $each) use ($tags): void {
                    foreach ($tags as $tag) {
                        $each->whereJsonDoesntContain('said.tags', $tag);
                    }
                });
            });
        } elseif ($answer !== null) {
            $words = array_combine(array_map(Attribute::word(...), $tags), $tags);
            $query->whereJsonContains('said.tags', $words[$answer] ?? throw InvalidValue::at('answer', $answer, 'open, '.implode(', ', array_keys($words))));
        }

        return $query;
    }
}
