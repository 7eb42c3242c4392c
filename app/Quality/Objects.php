<?php

declare(strict_types=1);

namespace App\Quality;

use App\Access\Actor;
use App\Items\AnswerQuery;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Work\ItemShape;
use App\Work\MarkShape;
use App\Work\Reach;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Role;
use Skeno\Core\Quality\Looks;
use Skeno\Core\Workflow\TurnKey;

/** The agreed marks of a project one by one, whatever items they are on: for the contact sheet and for sweeps. */
final class Objects
{
    public const MOST = 200;

    private const SORTS = ['item', 'oddness', 'size', 'aspect', 'time', 'author', 'answer', 'confidence'];

    /**
     * @param  array<array-key, mixed>  $in  `class?` (a key or a list of them), `question?`, `answer?` (an option, `yes`, `no`, a way of having no
     *                                       value, or `open`: not answered), `author?`, `set?`, `sort?`, `order?`, `offset?`, `limit?`,
     *                                       `after?` (a mark, when sorted by item: what follows it, whatever became of those before)
     * @return array<string, mixed>
     */
    public function page(Actor $actor, Project $project, array $in): array
    {
        $codebook = $project->codebookVersion()->codebook();
        $query = $this->found($actor, $project, $codebook, $in);
        $total = (clone $query)->count();
        if (($in['sort'] ?? 'item') === 'item') {
            $query->join('items', 'items.id', '=', 'marks.item_id');
        }
        $this->follow($query, $in);
        $offset = $this->number($in, 'offset', 0, 10_000_000, 0);
        $limit = $this->number($in, 'limit', 1, self::MOST, 60);
        $this->sort($query, $codebook, $in);
        $found = $query->offset($offset)->limit($limit)->with(['item.asset', 'item.set', 'author'])->get(['marks.*']);
        $known = LookAtObjects::known($project->id);
        $vectors = DB::table('looks')->whereIn('mark_id', $found->modelKeys())->pluck('vector', 'mark_id');
        $turns = Turn::query()->whereIn('item_id', $found->pluck('item_id')->unique())->where('layer', TurnKey::AGREED)->groupBy('item_id')->selectRaw('item_id, max(id) as turn')->toBase()->pluck('turn', 'item_id');
        $named = $actor->roleIn($project) !== Role::Guest;

        return [
            'data' => array_values($found->map(static fn (MarkRow $row): array => [
                'mark' => MarkShape::of($row),
                'item' => ItemShape::of($row->item),
                'turn' => isset($turns[$row->item_id]) ? (int) $turns[$row->item_id] : null,
                'size' => $row->width === null || $row->height === null ? null : [$row->width, $row->height],
                'oddness' => $row->oddness,
                'looks_like' => isset($vectors[$row->id]) ? ($known->doubt($row->class, Looks::unpack((string) $vectors[$row->id]))['class'] ?? null) : null,
                'author' => $named ? ($row->source === 'import' && $row->author_id === null ? 'import' : $row->author?->name) : null,
            ])->all()),
            'total' => $total,
            'offset' => $offset,
            'due' => LookAtObjects::due($project->id),
            'looking' => $project->looks_asked_at !== null,
        ];
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @return Builder<MarkRow>
     */
    public function found(Actor $actor, Project $project, Codebook $codebook, array $in): Builder
    {
        $query = MarkRow::query()->where('marks.project_id', $project->id)->where('marks.layer', TurnKey::AGREED)->where('marks.kind', '!=', ItemAnswers::KIND)->whereNull('marks.deleted_at')
            // few are archived: looked up once, instead of the item of every mark
            ->whereNotIn('marks.item_id', DB::table('items')->where('project_id', $project->id)->whereNotNull('archived_at')->select('id'));
        if (in_array($actor->roleIn($project), [Role::Reviewer, Role::Labeller], true)) {
            $query->whereIn('marks.item_id', Reach::items($actor, $project)->select('items.id'));
        } elseif (! $actor->may(Ability::SeeItems, $project)) {
            $query->whereRaw('1 = 0');
        }
        $classes = $in['class'] ?? [];
        $classes = is_array($classes) ? array_values($classes) : [$classes];
        foreach ($classes as $i => $class) {
            if (! is_string($class) || $codebook->class($class) === null) {
                throw InvalidValue::at("class[{$i}]", $class, 'a class of the codebook');
            }
        }
        $question = $this->question($codebook, $in);
        if ($question !== null) {
            // a question is asked of some classes only
            $asking = array_values(array_filter(array_keys($codebook->classes), static fn (string $key): bool => in_array($question->key, $codebook->classes[$key]->attributes, true)));
            $classes = $classes === [] ? $asking : array_values(array_intersect($classes, $asking));
            $query->whereIn('marks.class', $classes);
            AnswerQuery::asked($query, $codebook, $question);
            $this->answered($query, $question, $in['answer'] ?? null);
        } elseif (($in['answer'] ?? null) === 'open') {
            $this->unfinished($query, $codebook, $classes);
        } elseif (isset($in['answer']) && $in['answer'] !== '') {
            throw InvalidValue::at('question', null, 'the question it answers');
        } elseif ($classes !== []) {
            count($classes) === 1 ? $query->where('marks.class', $classes[0]) : $query->whereIn('marks.class', $classes);
        }
        if (isset($in['author'])) {
            $query->where('marks.author_id', $this->number($in, 'author', 1, PHP_INT_MAX, 0));
        }
        if (is_string($in['set'] ?? null)) {
            $query->whereIn('marks.item_id', DB::table('items')->whereIn('set_id', $project->sets()->where('path', $in['set'])->select('id'))->select('id'));
        }

        return $query;
    }

    /**
     * What comes after a mark in the order of items, so that a sweep goes on where it is while answers change what is found.
     *
     * @param  Builder<MarkRow>  $query
     * @param  array<array-key, mixed>  $in
     */
    private function follow(Builder $query, array $in): void
    {
        $after = $in['after'] ?? null;
        if ($after === null || $after === '') {
            return;
        }
        if (($in['sort'] ?? 'item') !== 'item' || ($in['order'] ?? 'asc') !== 'asc') {
            throw InvalidValue::at('after', $after, 'only in the order of items');
        }
        $path = is_string($after) ? DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('marks.id', $after)->value('items.path') : null;
        if (! is_string($path)) {
            throw InvalidValue::at('after', $after, 'a mark of this project');
        }
        $query->where(static fn (Builder $later): Builder => $later->where('items.path', '>', $path)->orWhere(static fn (Builder $same): Builder => $same->where('items.path', $path)->where('marks.id', '>', $after)));
    }

    /**
     * Only objects of which a question that is always asked has no answer yet.
     *
     * @param  Builder<MarkRow>  $query
     * @param  list<string>  $classes  none: all
     */
    private function unfinished(Builder $query, Codebook $codebook, array $classes): void
    {
        $query->where(static function (Builder $any) use ($codebook, $classes): void {
            $any->whereRaw('1 = 0');
            foreach ($classes === [] ? array_keys($codebook->classes) : $classes as $key) {
                $open = array_filter($codebook->classes[$key]->attributes, static fn (string $question): bool => $codebook->attributes[$question]->when === []);
                $any->orWhere(static fn (Builder $class): Builder => $class->where('marks.class', $key)->where(static function (Builder $none) use ($open): void {
                    $none->whereRaw('1 = 0');
                    foreach ($open as $question) {
                        $none->orWhereNull("marks.answers->{$question}");
                    }
                }));
            }
        });
    }

    /** @param  array<array-key, mixed>  $in */
    private function question(Codebook $codebook, array $in): ?Attribute
    {
        $key = $in['question'] ?? null;
        if ($key === null || $key === '') {
            return null;
        }

        return is_string($key) && isset($codebook->attributes[$key]) ? $codebook->attributes[$key] : throw InvalidValue::at('question', $key, 'a question of the codebook');
    }

    /** @param  Builder<MarkRow>  $query */
    private function answered(Builder $query, Attribute $question, mixed $answer): void
    {
        if ($answer === null || $answer === '') {
            return;
        }
        $words = $question->words();
        if (! is_string($answer) || ! in_array($answer, $words, true)) {
            throw InvalidValue::at('answer', $answer, implode(', ', $words));
        }
        AnswerQuery::said($query, $question, $answer);
    }

    /**
     * @param  Builder<MarkRow>  $query
     * @param  array<array-key, mixed>  $in
     */
    private function sort(Builder $query, Codebook $codebook, array $in): void
    {
        $sort = $in['sort'] ?? 'item';
        if (! is_string($sort) || ! in_array($sort, self::SORTS, true)) {
            throw InvalidValue::at('sort', $sort, implode(', ', self::SORTS));
        }
        $order = $in['order'] ?? ($sort === 'oddness' ? 'desc' : 'asc');
        if ($order !== 'asc' && $order !== 'desc') {
            throw InvalidValue::at('order', $order, 'asc or desc');
        }
        $question = $this->question($codebook, $in);
        $asked = $question === null ? '' : $question->key;
        if ($sort === 'answer' && $asked === '') {
            throw InvalidValue::at('question', null, 'the question whose answers they are sorted by');
        }
        match ($sort) {
            'oddness' => $query->orderBy('marks.oddness', $order),
            // what has not been looked at yet stands behind in either order
            'size' => $query->orderByRaw('marks.width is null')->orderByRaw("marks.width * marks.height {$order}"),
            'aspect' => $query->orderByRaw('marks.width is null')->orderByRaw("marks.width / max(marks.height, 0.01) {$order}"),
            'time' => $query->orderBy('marks.updated_at', $order),
            'author' => $query->orderBy('marks.author_id', $order),
            'confidence' => $query->orderByRaw('marks.confidence is null')->orderBy('marks.confidence', $order),
            'answer' => $query->orderBy("marks.answers->{$asked}->value", $order),
            default => $query->orderBy('items.path', $order),
        };
        $query->orderBy('marks.id');
    }

    /** @param  array<array-key, mixed>  $in */
    private function number(array $in, string $field, int $least, int $most, int $default): int
    {
        $value = $in[$field] ?? $default;
        $number = filter_var($value, FILTER_VALIDATE_INT);

        return $number !== false && $number >= $least && $number <= $most ? $number : throw InvalidValue::at($field, $value, "a whole number from {$least}".($most < 10_000_000 ? " to {$most}" : ''));
    }
}
