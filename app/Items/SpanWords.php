<?php

declare(strict_types=1);

namespace App\Items;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;

/** The words of spans, cut by the database out of the texts: a place in SQLite's text is a code point, as it is in a span. */
final class SpanWords
{
    private const START = "json_extract(marks.geometry, '$.start')";

    private const END = "json_extract(marks.geometry, '$.end')";

    /** Spans with the texts they lie in. */
    public static function query(): Builder
    {
        return DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->join('texts', 'texts.asset_id', '=', 'items.asset_id')->where('marks.kind', Shape::Span->value);
    }

    /** The words of a span of such a query, at most so many characters. */
    public static function column(int $most): string
    {
        return 'substr(texts.body, '.self::START.' + 1, min('.self::END.' - '.self::START.", {$most}))";
    }

    /**
     * Spans with what stands round them.
     *
     * @param  list<string>  $marks
     * @return array<string, array{before: string, words: string, after: string}> by mark
     */
    public static function around(array $marks, int $most = 90): array
    {
        $found = [];
        $before = 'substr(texts.body, max(1, '.self::START." - {$most} + 1), min({$most}, ".self::START.'))';
        $after = 'substr(texts.body, '.self::END." + 1, {$most})";
        foreach ($marks === [] ? [] : self::query()->whereIn('marks.id', $marks)->selectRaw("marks.id as id, {$before} as before, ".self::column(400)." as words, {$after} as after")->get() as $row) {
            $found[(string) $row->id] = ['before' => (string) $row->before, 'words' => (string) $row->words, 'after' => (string) $row->after];
        }

        return $found;
    }
}
