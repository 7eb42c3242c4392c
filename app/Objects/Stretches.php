<?php

declare(strict_types=1);

namespace App\Objects;

use App\Access\Actor;
use App\Items\ItemShape;
use App\Items\Keys;
use App\Items\MarkShape;
use App\Items\SaidShape;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Work\Reach;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Along;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;

/**
 * What is said along the axes of a project's items, stretch by stretch: answers to a question of scope `frame` with the gaps between them, a tag, or
 * what varies of objects. For sweeps.
 */
final class Stretches
{
    public const MOST = 100;

    /** Marks or items that are read at a time, and that are gone through to say how many there are. */
    private const CHUNK = 200;

    private const COUNTED = 5_000;

    /**
     * @param  array<array-key, mixed>  $in  `question` (of scope frame, or of objects and varying) or `tag`; `class?` (of objects), `answer?` (`open`: not
     *                                       answered yet; an option, `yes`, `no`, `no:<way>`), `set?`, `after?` (what a stretch calls itself), `limit?`
     * @return array{data: list<array<string, mixed>>, total: ?int} total: null when it goes on, or where there is too much to count
     */
    public function page(Actor $actor, Project $project, array $in): array
    {
        $codebook = $project->codebookVersion()->codebook();
        $limit = filter_var($in['limit'] ?? 50, FILTER_VALIDATE_INT);
        if ($limit === false || $limit < 1 || $limit > self::MOST) {
            throw InvalidValue::at('limit', $in['limit'] ?? null, 'a whole number from 1 to '.self::MOST);
        }
        [$question, $tag] = $this->asked($codebook, $in);
        $wanted = $this->wanted($question, $in['answer'] ?? null);
        $items = Reach::items($actor, $project)->whereIn('items.kind', self::isOfPages($question, $tag, $codebook) ? ['document'] : ['clip', 'volume', 'cloud']);
        if (is_string($in['set'] ?? null)) {
            $items->whereIn('items.set_id', $project->sets()->where('path', $in['set'])->select('id'));
        }
        [$path, $mark, $place] = $this->after($project, $in['after'] ?? null);
        if ($question?->scope === Scope::Object) {
            $marks = $this->marks($items, $codebook, $question, $in['class'] ?? null);
            $total = $path === null && (clone $marks)->count() <= self::COUNTED ? $this->count($this->ofMarks($marks, $question, $wanted)) : null;
            if ($path !== null) {
                $marks->where(static fn (Builder $later): Builder => $later->where('items.path', '>', $path)->orWhere(static fn (Builder $same): Builder => $same->where('items.path', $path)->where('marks.id', '>=', $mark)));
            }
            $found = $this->take($this->ofMarks($marks, $question, $wanted), $limit, $path === null ? null : [$mark, $place]);

            return ['data' => $this->shownOfMarks($found, $question), 'total' => $total];
        }
        $key = $question->key ?? (string) $tag;
        $total = $path === null && (clone $items)->count() <= self::COUNTED ? $this->count($this->ofItems($items, $key, $question !== null, $wanted)) : null;
        if ($path !== null) {
            $items->where('items.path', '>=', $path);
        }

        return ['data' => $this->shownOfItems($this->take($this->ofItems($items, $key, $question !== null, $wanted), $limit, $path === null ? null : [$path, $place])), 'total' => $total];
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @return array{?Attribute, ?string}
     */
    private function asked(Codebook $codebook, array $in): array
    {
        $key = $in['question'] ?? '';
        if ($key !== '') {
            $question = is_string($key) ? $codebook->attributes[$key] ?? null : null;

            return $question !== null && (in_array($question->scope, [Scope::Frame, Scope::Page], true) || ($question->scope === Scope::Object && $question->varies)) ? [$question, null] : throw InvalidValue::at('question', $key, 'a question whose answers change along a clip, or of pages');
        }
        $tag = $in['tag'] ?? null;

        return is_string($tag) && isset($codebook->tags[$tag]) && $codebook->tags[$tag]->scope !== 'item' ? [null, $tag] : throw InvalidValue::at('tag', $tag, 'a question whose answers change along a clip or of pages, or a tag of stretches or pages');
    }

    private static function isOfPages(?Attribute $question, ?string $tag, Codebook $codebook): bool
    {
        return $question?->scope === Scope::Page || ($tag !== null && $codebook->tags[$tag]->scope === 'page');
    }

    /** @return \Closure(?Answer): bool */
    private function wanted(?Attribute $question, mixed $answer): \Closure
    {
        if ($answer === null || $answer === '') {
            return static fn (): bool => true;
        }
        $words = $question?->words() ?? [];
        if (! is_string($answer) || ! in_array($answer, $words, true)) {
            throw InvalidValue::at('answer', $answer, $words === [] ? 'nothing: a tag has no answers' : implode(', ', $words));
        }

        return static fn (?Answer $given): bool => $answer === 'open' ? $given === null : $given !== null && $question !== null && $question->isWord($given, $answer);
    }

    /**
     * Where a sweep goes on: `item@first` or `mark@first`, as a stretch calls itself.
     *
     * @return array{?string, string, int} path of the item, id of the mark (or empty), first place
     */
    private function after(Project $project, mixed $after): array
    {
        if ($after === null || $after === '') {
            return [null, '', 0];
        }
        if (! is_string($after) || preg_match('/^([0-9A-Za-z]+)@(\d{1,8})$/', $after, $part) !== 1) {
            throw InvalidValue::at('after', $after, 'the id of a stretch');
        }
        $isItem = ctype_digit($part[1]);
        $path = Item::query()->where('project_id', $project->id)->whereIn('id', $isItem ? [(int) $part[1]] : MarkRow::query()->whereKey($part[1])->select('item_id'))->value('path');

        return [is_string($path) ? $path : throw InvalidValue::at('after', $after, 'the id of a stretch of this project'), $isItem ? '' : $part[1], (int) $part[2]];
    }

    /**
     * @param  Builder<Item>  $items
     * @return Builder<MarkRow> tracks of classes that are asked it, in the order of their items
     */
    private function marks(Builder $items, Codebook $codebook, Attribute $question, mixed $class): Builder
    {
        $asking = $codebook->asking($question);
        if ($class !== null && $class !== '') {
            $asking = is_string($class) && in_array($class, $asking, true) ? [$class] : throw InvalidValue::at('class', $class, 'a class that is asked it: '.implode(', ', $asking));
        }

        return MarkRow::query()->join('items', 'items.id', '=', 'marks.item_id')->whereIn('items.id', $items->select('items.id'))->whereRaw(MarkRow::STANDS)->whereNotNull('marks.stretches')->whereIn('marks.class', $asking)
            ->select('marks.*', 'items.path')->orderBy('items.path')->orderBy('marks.id');
    }

    /**
     * @param  Builder<MarkRow>  $marks
     * @param  \Closure(?Answer): bool  $wanted
     * @return iterable<array{at: string, first: int, last: int, answer: ?Answer, row: MarkRow}>
     */
    private function ofMarks(Builder $marks, Attribute $question, \Closure $wanted): iterable
    {
        foreach ((clone $marks)->cursor()->chunk(self::CHUNK) as $rows) {
            $telling = Keys::ofMarks($rows->pluck('id')->values()->all(), telling: true);
            foreach ($rows as $row) {
                foreach (Along::ofTrack($row->mark(keys: $telling[$row->id] ?? [])->track(), $question->key) as $stretch) {
                    if ($wanted($stretch['answer'])) {
                        yield ['at' => $row->id, 'row' => $row] + $stretch;
                    }
                }
            }
        }
    }

    /**
     * @param  Builder<Item>  $items
     * @param  \Closure(?Answer): bool  $wanted
     * @return iterable<array{at: string, first: int, last: int, answer: ?Answer, item: int}>
     */
    private function ofItems(Builder $items, string $key, bool $isQuestion, \Closure $wanted): iterable
    {
        foreach ((clone $items)->orderBy('items.path')->cursor()->chunk(self::CHUNK) as $lazy) {
            /** @var Collection<int, Item> $some */
            $some = (new Collection($lazy->values()->all()))->load('asset');
            $said = Layer::query()->whereIn('item_id', $some->pluck('id'))->where('kind', LayerKind::Agreed)->get()->keyBy('item_id');
            foreach ($some as $item) {
                $all = match (true) {
                    ! $isQuestion => Along::ofTag($said[$item->id]->said(), $key),
                    $item->kind === 'document' => Along::ofPages($said[$item->id]->said(), $key, $item->places() ?? 1),
                    default => Along::ofItem($said[$item->id]->said(), $key, $item->places() ?? 1),
                };
                foreach ($all as $stretch) {
                    if ($wanted($stretch['answer'])) {
                        yield ['at' => $item->path, 'item' => $item->id] + $stretch;
                    }
                }
            }
        }
    }

    /** @param  iterable<mixed>  $all */
    private function count(iterable $all): int
    {
        $count = 0;
        foreach ($all as $_) {
            $count++;
        }

        return $count;
    }

    /**
     * @template T of array{at: string, first: int, ...}
     *
     * @param  iterable<T>  $all
     * @param  ?array{string, int}  $after  of what stands there only what begins later
     * @return list<T>
     */
    private function take(iterable $all, int $limit, ?array $after): array
    {
        $found = [];
        foreach ($all as $one) {
            if ($after !== null && $one['at'] === $after[0] && $one['first'] <= $after[1]) {
                continue;
            }
            $found[] = $one;
            if (count($found) === $limit) {
                break;
            }
        }

        return $found;
    }

    /**
     * @param  list<array{at: string, first: int, last: int, answer: ?Answer, item: int}>  $found
     * @return list<array<string, mixed>>
     */
    private function shownOfItems(array $found): array
    {
        $ids = array_values(array_unique(array_column($found, 'item')));
        $items = Item::query()->whereIn('id', $ids)->with(['asset', 'set'])->get()->keyBy('id');
        $said = Layer::query()->whereIn('item_id', $ids)->where('kind', LayerKind::Agreed)->get()->keyBy('item_id');
        $turns = $this->turns($ids);

        return array_map(static fn (array $one): array => [
            'id' => "{$one['item']}@{$one['first']}", 'first' => $one['first'], 'last' => $one['last'], 'answer' => $one['answer']?->toArray(), 'place' => intdiv($one['first'] + $one['last'], 2),
            'item' => ItemShape::of($items[$one['item']]), 'said' => SaidShape::of($said[$one['item']]), 'mark' => null, 'key' => null, 'turn' => $turns[$one['item']] ?? null,
        ], $found);
    }

    /**
     * @param  list<array{at: string, first: int, last: int, answer: ?Answer, row: MarkRow}>  $found
     * @return list<array<string, mixed>>
     */
    private function shownOfMarks(array $found, Attribute $question): array
    {
        $rows = array_column($found, 'row');
        $ids = array_values(array_unique(array_map(static fn (MarkRow $row): int => $row->item_id, $rows)));
        $items = Item::query()->whereIn('id', $ids)->with(['asset', 'set'])->get()->keyBy('id');
        $turns = $this->turns($ids);
        $keys = Keys::ofMarks(array_values(array_unique(array_map(static fn (MarkRow $row): string => $row->id, $rows))));
        $begins = Keys::shapesAt(array_map(static fn (array $one): array => [$one['row']->id, $one['first']], $found), gone: true);
        $shown = [];
        foreach ($found as $one) {
            $row = clone $one['row'];
            $mark = $row->mark(keys: $keys[$row->id] ?? []);
            $row->place = Along::face($mark->keys, $one['first'], $one['last']);
            $row->geometry = $mark->track()->shape($row->place)?->toArray() ?? $row->geometry;
            $shown[] = [
                'id' => "{$row->id}@{$one['first']}", 'first' => $one['first'], 'last' => $one['last'], 'answer' => $one['answer']?->toArray(), 'place' => $row->place,
                'item' => ItemShape::of($items[$row->item_id]), 'said' => null, 'mark' => MarkShape::of($row), 'key' => $begins["{$row->id}@{$one['first']}"][1] ?? null, 'turn' => $turns[$row->item_id] ?? null,
            ];
        }

        return $shown;
    }

    /**
     * @param  list<int>  $items
     * @return array<int, int> the latest turn by item
     */
    private function turns(array $items): array
    {
        return Turn::query()->whereIn('item_id', $items)->where('beside', false)->groupBy('item_id')->selectRaw('item_id, max(id) as turn')->toBase()->pluck('turn', 'item_id')->map(static fn (mixed $turn): int => (int) $turn)->all();
    }
}
