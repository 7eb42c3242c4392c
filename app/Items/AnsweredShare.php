<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\MarkRow;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\Marks\LayerKind;

/**
 * How much of what has to be answered of an item is, in terms of the database: each required question counts once of the item, once of each object
 * that is asked it. What switches along an axis counts by the share of the places it is answered for.
 */
final class AnsweredShare
{
    /**
     * @return array{string, list<mixed>} an expression over `items`, 0 to 1, and its bindings; where nothing is required, 1
     */
    public static function of(Codebook $codebook): array
    {
        $asked = $given = [];
        foreach ($codebook->attributes as $question) {
            // (of a page question that is asked only after certain answers, how often it is asked would be a count page by page)
            if (! $question->required || ($question->scope === Scope::Page && $question->when !== [])) {
                continue;
            }
            [$of, $has] = match ($question->scope) {
                Scope::Item => self::ofItem($codebook, $question),
                Scope::Frame, Scope::Page => self::ofPlaces($question),
                default => self::ofObjects($codebook, $question),
            };
            $asked[] = $of;
            $given = [...$given, ...$has];
        }
        if ($asked === []) {
            return ['1.0', []];
        }
        [$all, $bindings] = self::sum($asked);
        [$answered, $more] = self::sum($given);

        return ["case when {$all} = 0 then 1.0 else 1.0 * {$answered} / {$all} end", [...$bindings, ...$more, ...$bindings]];
    }

    /** @return array{array{string, list<mixed>}, list<array{string, list<mixed>}>} in how many cases it is asked, and in how many it is answered */
    private static function ofItem(Codebook $codebook, Attribute $question): array
    {
        $asked = self::said()->selectRaw('count(*)');
        AnswerQuery::asked($asked, $codebook, $question, 'layers.answers');
        $given = (clone $asked)->whereNotNull("layers.answers->{$question->key}");

        return [self::sql($asked), [self::sql($given)]];
    }

    /** @return array{array{string, list<mixed>}, list<array{string, list<mixed>}>} */
    private static function ofPlaces(Attribute $question): array
    {
        $kinds = implode(', ', array_map(static fn (string $kind): string => "'{$kind}'", self::kindsOf($question)));

        return [["(items.kind in ({$kinds}))", []], [self::along($question)]];
    }

    /**
     * Of how much of a clip or volume a question of scope `frame` is answered, or on how much of a document one of scope `page`.
     *
     * @return array{string, list<mixed>} an expression over `items`, 0 to 1; 0 for other items
     */
    public static function along(Attribute $question): array
    {
        $covered = self::said()->crossJoin(DB::raw('json_each(layers.stretches) as said'))->whereRaw("json_extract(said.value, '$.question') = ?", [$question->key])
            ->selectRaw("coalesce(sum(json_extract(said.value, '$.last') - json_extract(said.value, '$.first') + 1), 0)");
        [$places, $bindings] = self::sql($covered);
        $share = '';
        foreach (self::kindsOf($question) as $kind) {
            $fact = ['clip' => 'frames', 'volume' => 'slices', 'cloud' => 'frames', 'document' => 'pages'][$kind];
            $share .= " when '{$kind}' then 1.0 * {$places} / (select json_extract(assets.facts, '$.{$fact}') from assets where assets.id = items.asset_id)";
        }

        return ["(case items.kind{$share} else 0 end)", array_merge(...array_fill(0, count(self::kindsOf($question)), $bindings))];
    }

    /**
     * The kinds of items a question of their places is asked of.
     *
     * @return non-empty-list<'clip'|'volume'|'cloud'|'document'>
     */
    public static function kindsOf(Attribute $question): array
    {
        return $question->scope === Scope::Page ? ['document'] : ['clip', 'volume', 'cloud'];
    }

    /** @return array{array{string, list<mixed>}, list<array{string, list<mixed>}>} */
    private static function ofObjects(Codebook $codebook, Attribute $question): array
    {
        $asking = $codebook->asking($question);
        $marks = DB::table('marks')->whereColumn('marks.item_id', 'items.id')->whereRaw(MarkRow::STANDS)->whereIn('marks.class', $asking);
        AnswerQuery::asked($marks, $codebook, $question);
        $given = [self::sql((clone $marks)->whereNotNull("marks.answers->{$question->key}")->when($question->varies, static fn (Builder $plain): Builder => $plain->whereNull('marks.stretches'))->selectRaw('count(*)'))];
        if ($question->varies) {
            // from the first key that answers it where the object is there
            $first = "(select min(k.place) from mark_keys k, json_each(marks.stretches) at where k.mark_id = marks.id and k.deleted_at is null and (k.faulty = 1 or k.answers != '{}') and json_extract(k.answers, ?) is not null and k.place between json_extract(at.value, '$[0]') and json_extract(at.value, '$[1]'))";
            $share = "(select coalesce(1.0 * sum(max(0, json_extract(at.value, '$[1]') - max(json_extract(at.value, '$[0]'), begins.place) + 1)) / sum(json_extract(at.value, '$[1]') - json_extract(at.value, '$[0]') + 1), 0) from json_each(marks.stretches) at, (select {$first} as place) begins)";
            [$sql, $bindings] = self::sql((clone $marks)->whereNotNull('marks.stretches')->selectRaw("coalesce(sum({$share}), 0)", ['$."'.$question->key.'"']));
            $given[] = [$sql, $bindings];
        }

        return [self::sql($marks->selectRaw('count(*)')), $given];
    }

    private static function said(): Builder
    {
        return DB::table('layers')->whereColumn('layers.item_id', 'items.id')->where('layers.name', LayerKind::Agreed->name());
    }

    /** @return array{string, list<mixed>} */
    private static function sql(Builder $query): array
    {
        return ["({$query->toSql()})", array_values($query->getBindings())];
    }

    /**
     * @param  list<array{string, list<mixed>}>  $terms
     * @return array{string, list<mixed>}
     */
    private static function sum(array $terms): array
    {
        return ['('.implode(' + ', array_column($terms, 0)).')', array_merge(...array_column($terms, 1))];
    }
}
