<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\MarkRow;
use App\Models\Project;
use App\Support\Rows;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use PDO;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Condition;
use Skeno\Core\Items\ConditionKind;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Workflow\ItemState;

/**
 * Items by conditions that are stacked, with what each leaves over. All items of the project are gone through once, and of
 * each it is counted how many conditions hold one after the other, so that the counts of all steps come with it.
 */
final class FindItems
{
    private const MOST = 20;

    /** Seconds texts are looked through by a pattern. */
    private const SECONDS = 5.0;

    private const SORTS = ['name' => 'items.path', 'state' => 'items.state', 'marks' => 'items.mark_count', 'time' => 'items.updated_at', 'size' => 'assets.width * assets.height'];

    /**
     * @param  list<string>  $conditions  as written, see Condition
     * @param  string  $sort  name, state, marks, time or size; items of the same place by name
     */
    public function __invoke(Project $project, array $conditions, string $sort = 'name', string $order = 'asc'): FoundItems
    {
        if (count($conditions) > self::MOST) {
            throw InvalidValue::at('f', count($conditions), 'at most '.self::MOST.' conditions');
        }
        if (! isset(self::SORTS[$sort])) {
            throw InvalidValue::at('sort', $sort, implode(', ', array_keys(self::SORTS)));
        }
        if ($order !== 'asc' && $order !== 'desc') {
            throw InvalidValue::at('order', $order, 'asc or desc');
        }
        $codebook = $project->codebookVersion()->codebook();
        $read = array_map(static fn (string $text): Condition => Condition::parse($text, $codebook), $conditions);
        $query = DB::table('items')->where('items.project_id', $project->id)->select('items.id', 'items.set_id', 'items.state');
        // archived ones are found by those who ask for them
        if (! array_filter($read, static fn (Condition $c): bool => $c->kind === ConditionKind::State && $c->value === ItemState::Archived->value && ! $c->not)) {
            $query->whereNull('items.archived_at');
        }
        foreach (self::stretches($read) as $stretch) {
            // how many of the conditions hold one after the other: the dearer ones are asked only of what the others have left
            $cases = $bindings = [];
            foreach ($stretch as $n => $condition) {
                $holds = $this->holds($project, $codebook, $condition);
                $cases[] = 'when '.($condition->not ? '' : 'not ').'('.preg_replace('/^select \* where /', '', $holds->toSql()).") then {$n}";
                $bindings = [...$bindings, ...$holds->getBindings()];
            }
            $query->selectRaw($cases === [] ? '0' : 'case '.implode(' ', $cases).' else '.count($stretch).' end', $bindings);
        }
        $patterns = array_values(array_filter($read, static fn (Condition $c): bool => $c->pattern !== null));
        if ($patterns !== []) {
            $query->addSelect('items.path');
        }
        if ($sort === 'size') {
            $query->join('assets', 'assets.id', '=', 'items.asset_id');
        }
        $query->orderByRaw(self::SORTS[$sort].' '.$order);
        if ($sort !== 'name') {
            $query->orderBy('items.path');
        }
        /** @var list<list<int|string>> $rows */
        $rows = Rows::of($query)->fetchAll(PDO::FETCH_NUM);
        $last = 3 + count($patterns) + 1;
        // how many of the conditions hold of each, one after the other, and of which all have held so far
        $held = array_fill(0, count($rows), 0);
        $alive = array_keys($rows);
        foreach (self::stretches($read) as $i => $stretch) {
            $next = [];
            foreach ($alive as $n) {
                $held[$n] += $here = (int) $rows[$n][3 + $i];
                if ($here === count($stretch)) {
                    $next[] = $n;
                }
            }
            if (! isset($patterns[$i])) {
                break;
            }
            $matching = $this->matching($patterns[$i], $rows, $next, $last);
            $alive = [];
            foreach ($next as $n) {
                if (isset($matching[$n]) !== $patterns[$i]->not) {
                    $held[$n]++;
                    $alive[] = $n;
                }
            }
        }
        $found = array_fill(0, count($read) + 1, 0);
        $left = [];
        foreach ($held as $many) {
            $found[$many]++;
            $left[] = $many === count($read);
        }
        $steps = [];
        $over = count($rows);
        foreach ($conditions as $i => $f) {
            $over -= $found[$i];
            $steps[] = ['f' => $f, 'found' => $over];
        }

        return new FoundItems($rows, $left, $steps);
    }

    /**
     * Which of some rows a pattern matches, by their paths or by what their texts say.
     *
     * @param  list<list<int|string>>  $rows
     * @param  list<int>  $some  places of rows
     * @param  int  $path  where in a row its path is
     * @return array<int, true> by place
     */
    private function matching(Condition $condition, array $rows, array $some, int $path): array
    {
        $clock = static fn (): float => microtime(true);
        if ($condition->kind === ConditionKind::WordsPattern) {
            return $condition->pattern?->among(self::texts($rows, $some), $clock, self::SECONDS) ?? [];
        }

        return $condition->pattern?->among((static function () use ($rows, $some, $path): iterable {
            foreach ($some as $n) {
                yield $n => (string) $rows[$n][$path];
            }
        })(), $clock) ?? [];
    }

    /**
     * What the texts of some rows say, one after the other: together they may be larger than memory.
     *
     * @param  list<list<int|string>>  $rows
     * @param  list<int>  $some
     * @return iterable<int, string>
     */
    private static function texts(array $rows, array $some): iterable
    {
        foreach (array_chunk($some, 500) as $chunk) {
            $places = [];
            foreach ($chunk as $n) {
                $places[(int) $rows[$n][0]] = $n;
            }
            foreach (DB::table('items')->join('texts', 'texts.asset_id', '=', 'items.asset_id')->whereIn('items.id', array_keys($places))->select('items.id', 'texts.body')->cursor() as $text) {
                yield $places[(int) $text->id] => (string) $text->body;
            }
        }
    }

    /**
     * The conditions the database decides, cut where a pattern stands between them; one stretch more than there are patterns.
     *
     * @param  list<Condition>  $conditions
     * @return list<list<Condition>>
     */
    private static function stretches(array $conditions): array
    {
        $stretches = [[]];
        foreach ($conditions as $condition) {
            if ($condition->pattern === null) {
                $stretches[count($stretches) - 1][] = $condition;
            } else {
                $stretches[] = [];
            }
        }

        return $stretches;
    }

    /** A condition as the `where` of a query without a table. */
    private function holds(Project $project, Codebook $codebook, Condition $condition): Builder
    {
        $where = DB::query();
        $value = $condition->value;

        return match ($condition->kind) {
            ConditionKind::Name => $where->whereRaw("items.path like ? escape '\\'", ['%'.addcslashes($value, '%_\\').'%']),
            ConditionKind::Words => $where->whereExists(static fn (Builder $texts) => $texts->from('texts')->whereColumn('texts.asset_id', 'items.asset_id')->whereRaw("texts.body like ? escape '\\'", ['%'.addcslashes($value, '%_\\').'%'])->selectRaw('1')),
            ConditionKind::State => $where->where('items.state', $value),
            ConditionKind::Part => $where->whereRaw("coalesce(items.part, '') = ?", [$value]),
            ConditionKind::Labelled => match ($value) {
                'objects' => $where->where('items.mark_count', '>', 0),
                'nothing' => $where->where('items.mark_count', 0)->where('items.nothing', true),
                default => $where->where('items.mark_count', 0)->where('items.nothing', false),
            },
            ConditionKind::Set => $where->where('items.set_id', $project->sets()->where('path', $value)->value('id') ?? throw InvalidValue::at('set', $value, 'a set of this project')),
            ConditionKind::LabelClass => $where->whereExists($this->marks()->where('class', $value)),
            ConditionKind::Tag => $codebook->tags[$value]->scope === 'stretch'
                ? $where->whereExists($this->along('tag', $value))
                : $where->whereExists($this->said()->whereRaw("tags like ? escape '\\'", ['%"'.addcslashes($value, '%_\\').'"%'])),
            ConditionKind::Answer => $this->answered($where, $codebook, $condition),
            ConditionKind::Fact => $this->fact($where, $condition),
            ConditionKind::Duration => $this->amount($where, "(select json_extract(assets.facts, '$.duration') from assets where assets.id = items.asset_id)", [], $condition),
            ConditionKind::Tracks => $this->amount($where, '(select count(*) from marks where marks.item_id = items.id and '.MarkRow::STANDS.' and marks.stretches is not null)', [], $condition),
            ConditionKind::Answered => $this->amount($where, '100.0 * ('.($share = AnsweredShare::of($codebook))[0].')', $share[1], $condition),
            ConditionKind::Pattern, ConditionKind::WordsPattern => $where,
        };
    }

    /**
     * A number of an item compared; what has none, such as a picture's duration, is no answer to that.
     *
     * @param  list<mixed>  $bindings
     */
    private function amount(Builder $where, string $expression, array $bindings, Condition $condition): Builder
    {
        assert($condition->amount !== null);
        [$sign, $value] = $condition->amount;
        // (the cast makes a number of what is bound, too: it arrives as text)

        return match ($sign) {
            '=' => $where->whereRaw("abs(cast(coalesce({$expression}, -1e9) as real) - ?) < 1e-6", [...$bindings, $value]),
            '>=' => $where->whereRaw("cast(coalesce({$expression}, -1e9) as real) >= ?", [...$bindings, $value - 1e-6]),
            '<=' => $where->whereRaw("cast(coalesce({$expression}, 1e9) as real) <= ?", [...$bindings, $value + 1e-6]),
        };
    }

    /** What is said somewhere along the axis of an item of the query around it. */
    private function along(string $what, string $key): Builder
    {
        return $this->said()->crossJoin(DB::raw('json_each(layers.stretches) as along'))->whereRaw("json_extract(along.value, '$.{$what}') = ?", [$key]);
    }

    private function fact(Builder $where, Condition $condition): Builder
    {
        assert($condition->fact !== null);
        [$key, $sign, $value] = $condition->fact;
        $column = "items.facts->{$key}";

        // a number in a table is text; it is compared as what it says
        return $sign === '='
            ? $where->whereNotNull($column)->where($column, $value)
            : $where->whereNotNull($column)->whereRaw('cast('.DB::connection()->getQueryGrammar()->wrap($column)." as real) {$sign} ?", [(float) $value]);
    }

    private function answered(Builder $where, Codebook $codebook, Condition $condition): Builder
    {
        $question = $condition->question;
        assert($question !== null);
        $marks = $this->marks();
        if ($question->scope === Scope::Item) {
            $said = $this->said();
            AnswerQuery::said($said, $question, $condition->value, 'answers');

            return $where->whereExists($said);
        }
        if ($question->scope === Scope::Frame || $question->scope === Scope::Page) {
            return $this->answeredAlong($where, $question, $condition);
        }
        $asking = $codebook->asking($question);
        $marks->whereIn('class', $asking);
        AnswerQuery::asked($marks, $codebook, $question, 'answers');
        AnswerQuery::holds($marks, $question, $condition->value);

        return $where->whereExists($marks);
    }

    /** Answered so somewhere along a clip, or on a page; open: somewhere not answered. */
    private function answeredAlong(Builder $where, Attribute $question, Condition $condition): Builder
    {
        if ($condition->isOpen()) {
            [$share, $bindings] = AnsweredShare::along($question);

            return $where->whereIn('items.kind', AnsweredShare::kindsOf($question))->whereRaw("{$share} < 1", $bindings);
        }
        $said = $this->along('question', $question->key);
        AnswerQuery::said($said, $question, $condition->value, 'along.value', 'answer');

        return $where->whereExists($said);
    }

    /** What is agreed to be said of an item of the query around it. */
    private function said(): Builder
    {
        return DB::table('layers')->whereColumn('layers.item_id', 'items.id')->where('layers.name', LayerKind::Agreed->name())->selectRaw('1');
    }

    /** Agreed marks of an item of the query around it. */
    private function marks(): Builder
    {
        return DB::table('marks')->whereColumn('marks.item_id', 'items.id')->whereRaw(MarkRow::STANDS)->selectRaw('1');
    }
}
