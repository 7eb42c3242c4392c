<?php

declare(strict_types=1);

namespace App\Upkeep;

use Illuminate\Support\Facades\DB;

/**
 * What SQLite is told of how its indexes are filled, from which it chooses among them: fixed figures of an installation of five projects
 * with 100,000 items and 1,000,000 marks each, as its own ANALYZE finds them. So every installation has the plans that were measured,
 * from the first day on. ANALYZE itself would hold the write lock for seconds there, and limited to a few rows it takes one project for
 * a few marks, after which the next item took 110 ms instead of 24. A small installation is quick whatever the plan.
 *
 * Form of a figure: rows in all, then rows alike in the first column, the first two, and so on (SQLite's documentation, "The sqlite_stat1
 * table"). A test holds that every index of these tables has one.
 */
final class Statistics
{
    public const FIGURES = [
        'assets' => ['assets_hash_unique' => '500000 1', 'assets_derived_at_index' => '500000 2'],
        'items' => [
            'items_project_id_path_unique' => '500000 100000 1',
            'items_project_id_asset_id_index' => '500000 100000 1',
            'items_project_id_state_index' => '500000 100000 25000',
            'items_by_set' => '500000 100000 50000 20000',
            'items_archived' => '5000 1000',
            'items_set_id_index' => '500000 50000',
            'items_asset_id_index' => '500000 1',
            'items_helping_run_id_index' => '500000 1000',
        ],
        'layers' => ['layers_item_id_name_unique' => '500000 1 1', 'layers_project_id_kind_index' => '500000 100000 80000', 'layers_run_id_index' => '500000 50000'],
        'marks' => [
            'sqlite_autoindex_marks_1' => '5000000 1',
            'marks_item_id_index' => '5000000 10',
            'marks_of_item' => '5000000 10 5',
            'marks_layer_id_deleted_at_index' => '5000000 10 10',
            'marks_turn_id_index' => '5000000 10',
            'marks_suggestion_id_index' => '5000000 2',
            'marks_sheet' => '5000000 1000000 300000 6 1 1 1 1 1 1 1',
            'marks_by_size' => '5000000 1000000 300000 300000 10 1 1',
            'marks_project_id_layer_width_index' => '5000000 1000000 900000 100',
        ],
        'turns' => [
            'turns_item_id_assignment_id_stage_pass_round_unique' => '900000 2 2 1 1 1',
            'turns_layer_id_index' => '900000 2',
            'turns_held' => '900000 45000 40000 30000 20000 20000 1 1',
            'turns_leased' => '200 2',
            'turns_of_assignment' => '900000 180000 90000 90000 26000 1 1',
            'turns_pace' => '900000 180000 90000 35000 10',
            'turns_project_id_stage_state_index' => '900000 180000 90000 26000',
            'turns_ribbon' => '900000 90000 90000 90000 1 1 1 1',
            'turns_of_station' => '900000 90000 26000 26000 26000 1',
        ],
        'decisions' => ['decisions_turn_id_index' => '250000 1', 'decisions_reviewer_id_index' => '250000 50000'],
        'mark_history' => ['mark_history_mark_id_index' => '9000000 2', 'mark_history_item_id_index' => '9000000 18'],
    ];

    public function __invoke(): void
    {
        $rows = [];
        foreach (self::FIGURES as $table => $indexes) {
            foreach ($indexes as $index => $figures) {
                $rows[] = ['tbl' => $table, 'idx' => $index, 'stat' => $figures];
            }
        }
        DB::transaction(static function () use ($rows): void {
            // of no row: it makes the table, and nothing else
            DB::statement('analyze sqlite_master');
            DB::table('sqlite_stat1')->delete();
            DB::table('sqlite_stat1')->insert($rows);
        });
        // connections read it when they open; this one now
        DB::statement('analyze sqlite_master');
    }
}
