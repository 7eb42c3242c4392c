<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Upkeep\Statistics;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** SQLite is told how its indexes are filled; what it is not told it guesses, and takes seconds for what takes milliseconds. */
final class StatisticsTest extends TestCase
{
    public function test_every_index_of_a_large_table_has_its_figures_and_every_figure_its_index(): void
    {
        foreach (Statistics::FIGURES as $table => $figures) {
            $columns = [];
            foreach (DB::select("pragma index_list('{$table}')") as $index) {
                $columns[$index->name] = count(DB::select("pragma index_info('{$index->name}')"));
            }
            ksort($columns);
            $given = array_map(static fn (string $of): int => count(explode(' ', $of)) - 1, $figures);
            ksort($given);
            self::assertSame($columns, $given, $table);
            foreach ($figures as $index => $of) {
                $numbers = array_map(intval(...), explode(' ', $of));
                $falling = $numbers;
                rsort($falling);
                self::assertSame($falling, $numbers, "{$index}: no more are alike in two columns than in one");
                self::assertGreaterThanOrEqual(1, min($numbers));
            }
        }
    }

    public function test_they_are_there_after_a_migration(): void
    {
        self::assertSame(array_sum(array_map(count(...), Statistics::FIGURES)), DB::table('sqlite_stat1')->count());
        app(Statistics::class)();
        self::assertSame(array_sum(array_map(count(...), Statistics::FIGURES)), DB::table('sqlite_stat1')->count());
    }

    /** @return iterable<string, array{string, string}> */
    public static function plans(): iterable
    {
        yield 'leases that ran out' => ["select 1 from turns where state = 'open' and leased_until <= '2026-01-01' and project_id = 1", 'turns_leased'];
        yield 'what a person holds' => ["select * from turns where followed = 0 and user_id = 3 and state in ('open', 'waiting') and project_id = 1 and stage in ('review', 'expert')", 'turns_held'];
        yield 'what waits at a station' => ["select * from turns where followed = 0 and station_id = 2 and state = 'waiting' order by place, id limit 1", 'turns_of_station'];
        yield 'a ribbon' => ["select * from turns where followed = 0 and station_id = 2 and (user_id = 3 or (state = 'waiting' and user_id is null)) and (place, item_id, id) > (0, 5, 5) order by place, item_id, id limit 30", 'turns_ribbon'];
        yield 'what was a person\'s own at a station' => ["select * from turns where followed = 0 and station_id = 2 and state = 'waiting' and last_user_id = 3 order by place, id limit 1", 'turns_of_station'];
        yield 'how far an assignment is' => ["select state, count(*) from turns where assignment_id in (1, 2) and stage = 'label' and followed = 0 group by assignment_id, state", 'COVERING INDEX turns_of_assignment'];
        yield 'items with a class' => ["select id from items where project_id = 1 and exists (select 1 from marks where marks.item_id = items.id and marks.layer = 'agreed' and marks.deleted_at is null and class = 'apple')", 'INDEX marks_of_item'];
        yield 'a sheet by oddness' => ["select id from marks where project_id = 1 and layer = 'agreed' and deleted_at is null and class = 'apple' order by oddness desc, id desc limit 60", 'marks_sheet'];
        yield 'a sheet by size' => ["select id from marks where project_id = 1 and layer = 'agreed' and deleted_at is null and class = 'apple' order by width is null, width * height, id limit 60", 'marks_by_size'];
        yield 'the marks of a layer' => ['select * from marks where layer_id = 7 and deleted_at is null order by id', 'marks_layer_id_deleted_at_index'];
        yield 'what became of a mark' => ["select * from mark_history where mark_id = '01' order by id", 'mark_history_mark_id_index'];
        yield 'the decisions of a turn' => ['select * from decisions where turn_id = 7', 'decisions_turn_id_index'];
    }

    #[DataProvider('plans')]
    public function test_what_a_page_waits_for_is_read_by_its_index(string $sql, string $index): void
    {
        $plan = implode("\n", array_column(DB::select("explain query plan {$sql}"), 'detail'));
        self::assertStringContainsString($index, $plan);
        self::assertDoesNotMatchRegularExpression('/SCAN (turns|marks|items|decisions|mark_history)\b/', $plan);
    }
}
