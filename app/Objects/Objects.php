<?php

declare(strict_types=1);

namespace App\Objects;

use App\Access\Actor;
use App\Files\Pass;
use App\Items\AnswerQuery;
use App\Items\ItemShape;
use App\Items\ItemStates;
use App\Items\SpanWords;
use App\Looks\LookAtObjects;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Work\Reach;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Role;
use Skeno\Core\Quality\ClassLooks;
use Skeno\Core\Quality\Looks;
use Skeno\Core\Workflow\ItemState;

/** The agreed marks of a project one by one, whatever items they are on: for the contact sheet and for sweeps. */
final class Objects
{
    public const MOST = 200;

    /** Sorts whose terms the index "marks_sheet" has. */
    private const OFF_THE_SHEET = ['oddness', 'aspect', 'time', 'author', 'confidence'];

    private const SORTS = ['item', 'oddness', 'size', 'aspect', 'time', 'author', 'answer', 'confidence', ...self::MEASURES];

    /** What is measured of cuboids: points in it, metres from the scanner, metres long. */
    private const MEASURES = ['points', 'distance', 'length'];

    /** Where the square with an object is kept, below the folder of derived files. */
    public static function cropFile(MarkRow $row, string $ending = 'jpg'): string
    {
        // the face of a track is another when its keys are, whatever the track's own revision
        $face = $row->stretches === null ? '' : '-'.substr(md5(json_encode([$row->place, $row->geometry], JSON_THROW_ON_ERROR)), 0, 8);

        return 'crops/'.substr($row->id, -2)."/{$row->id}-{$row->revision}{$face}.{$ending}";
    }

    /**
     * @param  array<array-key, mixed>  $in  `each?` (`track`: an object once, a track by the key at which it is seen best; `key`: a track once for every
     *                                       key), `mark?` (only this one), `class?` (a key or a list of them), `question?`, `answer?` (an option, `yes`, `no`, a way of having no
     *                                       value, or `open`: not answered), `author?`, `set?`, of cuboids `points?`, `distance?`, `length?` (from and to, `10-20`, either may be missing), `sort?`, `order?`, `offset?`, `limit?`,
     *                                       `after?` (a mark, when sorted by item: what follows it, whatever became of those before)
     * @return array<string, mixed>
     */
    public function page(Actor $actor, Project $project, array $in): array
    {
        $codebook = $project->codebookVersion()->codebook();
        $reach = $this->reach($actor, $project);
        $byKey = $this->byKey($in);
        $query = $this->found($actor, $project, $codebook, $in, $reach);
        $total = $this->total($actor, $project, $in, $query, $reach);
        $this->follow($project, $query, $in);
        if (in_array($in['sort'] ?? 'item', self::OFF_THE_SHEET, true) && $reach['outside'] === 0 && ! $byKey && ! self::narrows($in, ['question', 'answer', 'author', 'set', 'mark', ...self::MEASURES])) {
            // all of a class, sorted: this index has every term, and of the narrower ones SQLite would look each row up
            $query->from(DB::raw('marks indexed by marks_sheet'));
        }
        $offset = $this->number($in, 'offset', 0, 10_000_000, 0);
        $limit = $this->number($in, 'limit', 1, self::MOST, 60);
        $sorting = $this->sorting($codebook, $in, $byKey);
        // the nearer end of the list is where it is counted from
        $fromEnd = $offset > intdiv($total, 2) && ! isset($in['after']);
        foreach ($sorting as [$by, $order]) {
            $query->orderByRaw($by.' '.($fromEnd ? ($order === 'asc' ? 'desc' : 'asc') : $order));
        }
        // the index first, then the rows of what is shown
        $shown = $fromEnd ? $query->offset(max(0, $total - $offset - $limit))->limit(max(0, min($limit, $total - $offset))) : $query->offset($offset)->limit($limit);
        /** @var list<array{string, ?int}> $spots a mark, and where it is shown when that is asked for key by key */
        $spots = $shown->toBase()->get($byKey ? ['marks.id', 'mark_keys.place'] : ['marks.id'])->map(static fn (\stdClass $row): array => [(string) $row->id, isset($row->place) ? (int) $row->place : null])->all();
        $spots = $fromEnd ? array_reverse($spots) : $spots;
        $rows = MarkRow::query()->whereIn('id', array_column($spots, 0))->with(['item.asset', 'item.set', 'author'])->get()->keyBy('id');
        $found = collect($spots)->filter(static fn (array $spot): bool => $rows->has($spot[0]))->map(static fn (array $spot): ObjectAt => ObjectAt::of($rows[$spot[0]], $spot[1]))->values();
        ObjectAt::read($found->all());
        $known = LookAtObjects::known($project->id);
        $vectors = DB::table('looks')->whereIn('mark_id', $rows->modelKeys())->pluck('vector', 'mark_id');
        $measures = DB::table('cuboid_measures')->whereIn('mark_id', $rows->where('kind', Shape::Cuboid->value)->modelKeys())->get()->keyBy('mark_id');
        $turns = Turn::query()->whereIn('item_id', $rows->pluck('item_id')->unique())->where('beside', false)->groupBy('item_id')->selectRaw('item_id, max(id) as turn')->toBase()->pluck('turn', 'item_id');
        $named = $actor->roleIn($project) !== Role::Guest;
        $around = SpanWords::around(array_values($rows->where('kind', Shape::Span->value)->modelKeys()));

        return [
            'data' => array_values($found->map(static fn (ObjectAt $object): array => [
                ...$object->shape(),
                'item' => ItemShape::of($object->row->item),
                'crop' => $object->row->kind === Shape::Span->value ? $object->crop($project->id) : Pass::on($object->crop($project->id), self::cropFile($object->row), storage_path()),
                'turn' => isset($turns[$object->row->item_id]) ? (int) $turns[$object->row->item_id] : null,
                'oddness' => $object->row->oddness,
                'looks_like' => isset($vectors[$object->row->id]) ? ($known->doubt($object->row->class, Looks::unpack((string) $vectors[$object->row->id]))['class'] ?? null) : null,
                'measures' => isset($measures[$object->row->id]) ? ['points' => $measures[$object->row->id]->points, 'distance' => (float) $measures[$object->row->id]->distance, 'length' => (float) $measures[$object->row->id]->length] : null,
                'author' => $named ? $object->author() : null,
                'words' => $around[$object->row->id] ?? null,
            ])->all()),
            'total' => $total,
            'offset' => $offset,
            'due' => LookAtObjects::due($project->id),
            'looking' => $project->looks_asked_at !== null,
            'enough' => ClassLooks::LEAST,
        ];
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @param  array{within: int, outside: int}  $reach
     * @return Builder<MarkRow>
     */
    private function found(Actor $actor, Project $project, Codebook $codebook, array $in, array $reach): Builder
    {
        $query = MarkRow::query()->where('marks.project_id', $project->id)->whereRaw(MarkRow::STANDS)
            // few are archived: looked up once, instead of the item of every mark
            ->whereNotIn('marks.item_id', ItemStates::archivedOf($project->id));
        if ($reach['within'] === 0) {
            $query->whereRaw('1 = 0');
        } elseif ($reach['outside'] > 0) {
            $reach['outside'] < $reach['within'] ? $query->whereNotIn('marks.item_id', Reach::outside($actor, $project)->select('items.id')) : $query->whereIn('marks.item_id', Reach::items($actor, $project)->select('items.id'));
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
            $asking = $codebook->asking($question);
            $classes = $classes === [] ? $asking : array_values(array_intersect($classes, $asking));
            $query->whereIn('marks.class', $classes);
            AnswerQuery::asked($query, $codebook, $question);
            $this->answered($query, $question, $in['answer'] ?? null, $this->byKey($in) ? 'mark_keys.place' : null);
        } elseif (($in['answer'] ?? null) === 'open') {
            $this->unfinished($query, $codebook, $classes);
        } elseif (isset($in['answer']) && $in['answer'] !== '') {
            throw InvalidValue::at('question', null, 'the question it answers');
        } elseif ($classes === []) {
            // relations are no objects
            $query->when($codebook->relations !== [], static fn (Builder $query) => $query->whereNotIn('marks.class', array_keys($codebook->relations)));
        } else {
            count($classes) === 1 ? $query->where('marks.class', $classes[0]) : $query->whereIn('marks.class', $classes);
        }
        if ($this->byKey($in)) {
            // what is no track has no keys and stands once
            $query->leftJoin('mark_keys', static fn ($join) => $join->on('mark_keys.mark_id', '=', 'marks.id')->whereNull('mark_keys.deleted_at')->whereNotNull('mark_keys.geometry'));
        }
        if (self::narrows($in, ['mark'])) {
            $query->where('marks.id', is_string($in['mark']) ? $in['mark'] : throw InvalidValue::at('mark', $in['mark'], 'the id of a mark'));
        }
        if (isset($in['author'])) {
            $query->where($this->byKey($in) ? DB::raw('coalesce(mark_keys.author_id, marks.author_id)') : 'marks.author_id', $this->number($in, 'author', 1, PHP_INT_MAX, 0));
        }
        $this->measured($query, $in);
        if (is_string($in['set'] ?? null)) {
            $query->whereIn('marks.item_id', DB::table('items')->whereIn('set_id', $project->sets()->where('path', $in['set'])->select('id'))->select('id'));
        }

        return $query;
    }

    /**
     * Only cuboids whose measures lie within ranges, or all of them beside their measures where they are sorted by one.
     *
     * @param  Builder<MarkRow>  $query
     * @param  array<array-key, mixed>  $in
     */
    private function measured(Builder $query, array $in): void
    {
        $narrowed = self::narrows($in, self::MEASURES);
        if ($narrowed || in_array($in['sort'] ?? '', self::MEASURES, true)) {
            $query->{$narrowed ? 'join' : 'leftJoin'}('cuboid_measures', 'cuboid_measures.mark_id', '=', 'marks.id');
        }
        foreach (self::MEASURES as $measure) {
            if (! self::narrows($in, [$measure])) {
                continue;
            }
            if (! is_string($in[$measure]) || preg_match('/^(\d{1,9}(?:\.\d{1,3})?)?-(\d{1,9}(?:\.\d{1,3})?)?$/D', $in[$measure], $m) !== 1 || $in[$measure] === '-') {
                throw InvalidValue::at($measure, $in[$measure], 'from and to, as 10-20, 10- or -20');
            }
            $query->when(($m[1] ?? '') !== '', static fn (Builder $from): Builder => $from->where("cuboid_measures.{$measure}", '>=', (float) $m[1]))
                ->when(($m[2] ?? '') !== '', static fn (Builder $to): Builder => $to->where("cuboid_measures.{$measure}", '<=', (float) ($m[2] ?? 0)));
        }
    }

    /**
     * What comes after a mark in the order of items, so that a sweep goes on where it is while answers change what is found.
     *
     * @param  Builder<MarkRow>  $query
     * @param  array<array-key, mixed>  $in
     */
    private function follow(Project $project, Builder $query, array $in): void
    {
        if (($in['sort'] ?? 'item') === 'item') {
            // the project named here too, so that names come in their order from the index
            $query->join('items', static fn ($join) => $join->on('items.id', '=', 'marks.item_id')->where('items.project_id', $project->id));
        }
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
                $any->orWhere(static fn (Builder $class): Builder => $class->where('marks.class', $key)->where(static function (Builder $none) use ($open, $codebook): void {
                    $none->whereRaw('1 = 0');
                    foreach ($open as $question) {
                        // what varies of a track is asked stretch by stretch
                        $none->orWhere(static fn (Builder $one): Builder => $one->whereNull("marks.answers->{$question}")->when($codebook->attributes[$question]->varies, static fn (Builder $plain): Builder => $plain->whereNull('marks.stretches')));
                    }
                }));
            }
        });
    }

    /** @param  array<array-key, mixed>  $in */
    private function byKey(array $in): bool
    {
        $each = $in['each'] ?? 'track';

        return match ($each) {
            'track', '' => false,
            'key' => true,
            default => throw InvalidValue::at('each', $each, 'track or key'),
        };
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
    private function answered(Builder $query, Attribute $question, mixed $answer, ?string $at): void
    {
        if ($answer === null || $answer === '') {
            return;
        }
        $words = $question->words();
        if (! is_string($answer) || ! in_array($answer, $words, true)) {
            throw InvalidValue::at('answer', $answer, implode(', ', $words));
        }
        AnswerQuery::holds($query, $question, $answer, $at);
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @return non-empty-list<array{string, 'asc'|'desc'}> terms of SQL, which may all be turned round together; the last tells any two marks apart
     */
    private function sorting(Codebook $codebook, array $in, bool $byKey): array
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
        if ($sort === 'answer' && $question === null) {
            throw InvalidValue::at('question', null, 'the question whose answers they are sorted by');
        }

        $of = static fn (string $column): string => $byKey ? "coalesce(mark_keys.{$column}, marks.{$column})" : "marks.{$column}";
        $answer = 'json_extract(marks.answers, \'$."'.($question === null ? '' : $question->key).'"."value"\')';

        return [...match ($sort) {
            'oddness' => [['marks.oddness', $order]],
            // what has not been looked at yet stands behind in either order
            'size' => $byKey ? [['coalesce(mark_keys.size, marks.width * marks.height) is null', 'asc'], ['coalesce(mark_keys.size, marks.width * marks.height)', $order]] : [['marks.width is null', 'asc'], ['marks.width * marks.height', $order]],
            'aspect' => [['marks.width is null', 'asc'], ['marks.width / max(marks.height, 0.01)', $order]],
            'points', 'distance', 'length' => [["cuboid_measures.{$sort} is null", 'asc'], ["cuboid_measures.{$sort}", $order]],
            'time' => [[$of('updated_at'), $order]],
            'author' => [[$of('author_id'), $order]],
            'confidence' => [[$of('confidence').' is null', 'asc'], [$of('confidence'), $order]],
            'answer' => [[$answer, $order]],
            default => [['items.path', $order]],
        }, ['marks.id', $sort === 'oddness' ? $order : 'asc'], ...($byKey ? [['mark_keys.place', 'asc']] : [])];
    }

    /**
     * How many there are: as far as it goes, from the counts the database keeps.
     *
     * @param  array<array-key, mixed>  $in
     * @param  Builder<MarkRow>  $query
     * @param  array{within: int, outside: int}  $reach
     */
    private function total(Actor $actor, Project $project, array $in, Builder $query, array $reach): int
    {
        // of a narrow part the marks themselves are fewer to count
        if ($this->byKey($in) || self::narrows($in, ['question', 'answer', 'author', 'mark', ...self::MEASURES]) || $reach['outside'] > $reach['within']) {
            return (clone $query)->count();
        }
        $classes = $in['class'] ?? [];
        $classes = is_array($classes) ? $classes : [$classes];
        $sets = is_string($in['set'] ?? null) ? $project->sets()->where('path', $in['set'])->pluck('id') : null;
        $relations = array_keys($project->codebookVersion()->codebook()->relations);
        $all = DB::table('mark_counts')->where('project_id', $project->id)->where('state', '!=', ItemState::Archived->value)
            ->when($classes !== [], static fn ($counts) => $counts->whereIn('class', $classes))
            ->when($relations !== [], static fn ($counts) => $counts->whereNotIn('class', $relations))
            ->when($sets !== null, static fn ($counts) => $counts->whereIn('set_id', $sets))->sum('marks');
        $outside = $reach['outside'] === 0 ? 0 : MarkRow::query()->whereRaw(MarkRow::STANDS)
            ->whereIn('marks.item_id', Reach::outside($actor, $project)->when($sets !== null, static fn ($items) => $items->whereIn('set_id', $sets))->select('items.id'))
            ->when($classes !== [], static fn ($marks) => $marks->whereIn('marks.class', $classes))->when($relations !== [], static fn ($marks) => $marks->whereNotIn('marks.class', $relations))->count();

        return (int) $all - $outside;
    }

    /**
     * @param  array<array-key, mixed>  $in
     * @param  list<string>  $by
     */
    private static function narrows(array $in, array $by): bool
    {
        return array_filter(array_intersect_key($in, array_fill_keys($by, 0)), static fn (mixed $value): bool => $value !== null && $value !== '') !== [];
    }

    /** @return array{within: int, outside: int} how many items a person reaches here, and how many not */
    private function reach(Actor $actor, Project $project): array
    {
        if (in_array($actor->roleIn($project), [Role::Reviewer, Role::Labeller], true)) {
            return Reach::extent($actor, $project);
        }

        return $actor->may(Ability::SeeItems, $project) ? ['within' => 1, 'outside' => 0] : ['within' => 0, 'outside' => 0];
    }

    /** @param  array<array-key, mixed>  $in */
    private function number(array $in, string $field, int $least, int $most, int $default): int
    {
        $value = $in[$field] ?? $default;
        $number = filter_var($value, FILTER_VALIDATE_INT);

        return $number !== false && $number >= $least && $number <= $most ? $number : throw InvalidValue::at($field, $value, "a whole number from {$least}".($most < 10_000_000 ? " to {$most}" : ''));
    }
}
