<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * How many marks of a class and size lie on items of a set and state, kept by the database itself: marks come, go and change in many
 * places, one at a time and by the ten thousand, and none of them can forget it. The part each picture had in a release. And indexes from
 * which pages of a sheet, ribbons and counts are read without the rows behind them.
 */
return new class extends Migration
{
    /** Of a mark with the alias `%s`: -1 while its extent is not known, else which of Census::SIZES its shorter side falls into. */
    private const SIZE = 'case when %1$s.width is null or %1$s.height is null then -1 when min(%1$s.width, %1$s.height) < 16 then 0 when min(%1$s.width, %1$s.height) < 32 then 1 when min(%1$s.width, %1$s.height) < 96 then 2 else 3 end';

    public function up(): void
    {
        Schema::create('mark_counts', function (Blueprint $table): void {
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->unsignedBigInteger('set_id');
            $table->string('state');
            $table->string('class');
            $table->integer('size');
            $table->integer('marks');
            $table->primary(['project_id', 'set_id', 'state', 'class', 'size']);
        });
        Schema::create('release_parts', function (Blueprint $table): void {
            $table->foreignId('release_id')->constrained()->cascadeOnDelete();
            $table->string('sha256');
            $table->string('part');
            $table->primary(['release_id', 'sha256']);
        });
        // everything a contact sheet is sorted by, of the marks it shows
        DB::statement("create index marks_sheet on marks (project_id, class, oddness, id, item_id, width, height, updated_at, author_id, confidence) where layer = 'agreed' and deleted_at is null");
        Schema::table('marks', fn (Blueprint $table) => $table->dropIndex(['project_id', 'class', 'oddness']));
        DB::statement('create index items_archived on items (project_id) where archived_at is not null');
        // a ribbon: what is at a station, in the order of the items
        DB::statement('create index turns_ribbon on turns (station_id, followed, item_id, id, state, user_id)');
        // who submitted how much on which day; how many items of a set are in which state
        DB::statement('create index turns_pace on turns (project_id, stage, user_id, submitted_at)');
        DB::statement('create index items_by_set on items (project_id, set_id, state) where archived_at is null');
        $more = 'on conflict (project_id, set_id, state, class, size) do update set marks = marks + excluded.marks';
        $size = static fn (string $of): string => sprintf(self::SIZE, $of);
        $counted = static fn (string $of): string => "{$of}.layer = 'agreed' and {$of}.deleted_at is null";
        $count = static fn (string $of, int $by): string => "insert into mark_counts select {$of}.project_id, items.set_id, items.state, {$of}.class, {$size($of)}, {$by} from items where items.id = {$of}.item_id and {$counted($of)} and exists (select 1 from projects where projects.id = items.project_id) {$more};";
        $all = static fn (string $item, string $sign): string => "insert into mark_counts select {$item}.project_id, {$item}.set_id, {$item}.state, marks.class, {$size('marks')}, {$sign} count(*) from marks where marks.item_id = {$item}.id and {$counted('marks')} and exists (select 1 from projects where projects.id = {$item}.project_id) group by 4, 5 {$more};";
        DB::unprepared("create trigger marks_counted_in after insert on marks when {$counted('new')} begin {$count('new', 1)} end");
        DB::unprepared("create trigger marks_counted_on after update of item_id, layer, class, deleted_at, width, height on marks begin {$count('old', -1)} {$count('new', 1)} end");
        DB::unprepared("create trigger marks_counted_out after delete on marks when {$counted('old')} begin {$count('old', -1)} end");
        DB::unprepared("create trigger items_counted_on after update of state, set_id on items when old.state is not new.state or old.set_id is not new.set_id begin {$all('old', '-')} {$all('new', '')} end");
        // before: its marks go with it, and do not find it any more. With its project the counts are gone already
        DB::unprepared("create trigger items_counted_out before delete on items begin {$all('old', '-')} end");
        DB::unprepared("insert into mark_counts select items.project_id, items.set_id, items.state, marks.class, {$size('marks')}, count(*) from marks join items on items.id = marks.item_id where {$counted('marks')} group by 1, 2, 3, 4, 5");
    }

    public function down(): void
    {
        foreach (['marks_counted_in', 'marks_counted_on', 'marks_counted_out', 'items_counted_on', 'items_counted_out'] as $trigger) {
            DB::unprepared("drop trigger {$trigger}");
        }
        DB::statement('drop index items_by_set');
        DB::statement('drop index turns_pace');
        DB::statement('drop index turns_ribbon');
        DB::statement('drop index items_archived');
        Schema::table('marks', fn (Blueprint $table) => $table->index(['project_id', 'class', 'oddness']));
        DB::statement('drop index marks_sheet');
        Schema::drop('release_parts');
        Schema::drop('mark_counts');
    }
};
