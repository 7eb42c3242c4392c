<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Project;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use PDO;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Condition;
use Skeno\Core\Items\ConditionKind;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\TurnKey;

/**
 * Items by conditions that are stacked, with what each leaves over. All items of the project are gone through once, each condition a
 * column of that one query, so that the counts of all steps come with it.
 */
final class FindItems
{
    private const MOST = 20;

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
        $query = DB::table('items')->where('items.project_id', $project->id)->select('items.id', 'items.path', 'items.set_id', 'items.state');
        // archived ones are found by those who ask for them
        if (! array_filter($read, static fn (Condition $c): bool => $c->kind === ConditionKind::State && $c->value === ItemState::Archived->value && ! $c->not)) {
            $query->whereNull('items.archived_at');
        }
        foreach ($read as $i => $condition) {
            if ($condition->pattern === null) {
                $holds = $this->holds($project, $codebook, $condition);
                // a column holds or does not: nothing else may come of nulls in it
                $query->selectRaw('case when '.preg_replace('/^select \* where /', '', $holds->toSql())." then 1 else 0 end as c{$i}", $holds->getBindings());
            }
        }
        if ($sort === 'size') {
            $query->join('assets', 'assets.id', '=', 'items.asset_id');
        }
        $query->orderByRaw(self::SORTS[$sort].' '.$order);
        if ($sort !== 'name') {
            $query->orderBy('items.path');
        }
        $statement = DB::connection()->getPdo()->prepare($query->toSql());
        $statement->execute(array_map(static fn (mixed $value): mixed => is_bool($value) ? (int) $value : $value, $query->getBindings()));
        /** @var list<list<int|string>> $rows */
        $rows = $statement->fetchAll(PDO::FETCH_NUM);
        $names = array_map(static fn (array $row): string => (string) $row[1], $rows);
        $left = array_fill(0, count($rows), true);
        $steps = [];
        $column = 4;
        foreach ($read as $i => $condition) {
            $matching = $condition->pattern?->among($names, static fn (): float => microtime(true));
            $found = 0;
            foreach ($rows as $n => $row) {
                $holds = $matching !== null ? isset($matching[$n]) : (int) $row[$column] === 1;
                $left[$n] = $left[$n] && $holds !== $condition->not;
                $found += $left[$n] ? 1 : 0;
            }
            $column += $matching === null ? 1 : 0;
            $steps[] = ['f' => $conditions[$i], 'found' => $found];
        }

        return new FoundItems($rows, $left, $steps);
    }

    /** A condition as the `where` of a query without a table. */
    private function holds(Project $project, Codebook $codebook, Condition $condition): Builder
    {
        $where = DB::query();
        $value = $condition->value;

        return match ($condition->kind) {
            ConditionKind::Name => $where->whereRaw("items.path like ? escape '\\'", ['%'.addcslashes($value, '%_\\').'%']),
            ConditionKind::State => $where->where('items.state', $value),
            ConditionKind::Part => $where->whereRaw("coalesce(items.part, '') = ?", [$value]),
            ConditionKind::Labelled => match ($value) {
                'objects' => $where->where('items.mark_count', '>', 0),
                'nothing' => $where->where('items.mark_count', 0)->where('items.nothing', true),
                default => $where->where('items.mark_count', 0)->where('items.nothing', false),
            },
            ConditionKind::Set => $where->where('items.set_id', $project->sets()->where('path', $value)->value('id') ?? throw InvalidValue::at('set', $value, 'a set of this project')),
            ConditionKind::LabelClass => $where->whereIn('items.id', $this->marks($project)->where('kind', '!=', ItemAnswers::KIND)->where('class', $value)),
            ConditionKind::Tag => $where->whereIn('items.id', $this->marks($project)->where('kind', ItemAnswers::KIND)->whereJsonContains('tags', $value)),
            ConditionKind::Answer => $this->answered($where, $project, $codebook, $condition),
            ConditionKind::Pattern => $where,
        };
    }

    private function answered(Builder $where, Project $project, Codebook $codebook, Condition $condition): Builder
    {
        $question = $condition->question;
        assert($question !== null);
        $marks = $this->marks($project);
        if ($question->scope === Scope::Item) {
            $marks->where('kind', ItemAnswers::KIND);
            AnswerQuery::said($marks, $question, $condition->value, 'answers');
            if ($condition->isOpen()) {
                // of most items nothing has been said at all
                $said = $this->marks($project)->where('kind', ItemAnswers::KIND)->whereNotNull("answers->{$question->key}");

                return $where->whereNotIn('items.id', $said);
            }

            return $where->whereIn('items.id', $marks);
        }
        $asking = array_values(array_filter(array_keys($codebook->classes), static fn (string $key): bool => in_array($question->key, $codebook->classes[$key]->attributes, true)));
        $marks->whereIn('class', $asking);
        AnswerQuery::asked($marks, $codebook, $question, 'answers');
        AnswerQuery::said($marks, $question, $condition->value, 'answers');

        return $where->whereIn('items.id', $marks);
    }

    private function marks(Project $project): Builder
    {
        return DB::table('marks')->where('project_id', $project->id)->where('layer', TurnKey::AGREED)->whereNull('deleted_at')->select('item_id');
    }
}
