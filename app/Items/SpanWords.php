<?php

declare(strict_types=1);

namespace App\Items;

use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Text\Text;

/**
 * The words of spans. Each text is read once, however many of them lie in it: cut out by the database, which counts from the beginning to each
 * place, 5,000 spans in a text of 1 MB took 6 seconds.
 */
final class SpanWords
{
    /** Spans with the items they lie in. */
    public static function query(): Builder
    {
        return DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('marks.kind', Shape::Span->value);
    }

    /**
     * Spans of such a query, which has a limit, with the words of each.
     *
     * @param  int  $most  characters of them
     * @return array<string, string> words by mark, text by text
     */
    public static function read(Builder $query, int $most): array
    {
        $words = [];
        foreach (self::spans($query) as $id => [$start, $end, $text]) {
            $words[$id] = $text->between($start, min($end, $start + $most));
        }

        return $words;
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
        foreach ($marks === [] ? [] : self::spans(self::query()->whereIn('marks.id', $marks)) as $id => [$start, $end, $text]) {
            $found[$id] = ['before' => $text->between(max(0, $start - $most), $start), 'words' => $text->between($start, min($end, $start + 400)), 'after' => $text->between($end, $end + $most)];
        }

        return $found;
    }

    /** @return iterable<string, array{int, int, Text}> by mark, text by text */
    private static function spans(Builder $query): iterable
    {
        $rows = $query->select(['marks.id', 'items.asset_id'])->selectRaw("json_extract(marks.geometry, '$.start') as start, json_extract(marks.geometry, '$.end') as end")->get()->all();
        usort($rows, static fn (object $a, object $b): int => [$a->asset_id, $a->id] <=> [$b->asset_id, $b->id]);
        $asset = $text = null;
        foreach ($rows as $row) {
            if ($text === null || $asset !== $row->asset_id) {
                $asset = $row->asset_id;
                $text = Text::of((string) DB::table('texts')->where('asset_id', $asset)->value('body'));
            }
            yield (string) $row->id => [(int) $row->start, (int) $row->end, $text];
        }
    }
}
