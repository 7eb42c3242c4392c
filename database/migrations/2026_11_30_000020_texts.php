<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** Texts: what they say is kept in the database, where words can be looked for; and counts that tell what lies on no plane from what is small. */
return new class extends Migration
{
    /** Of a mark with the alias `%s`: -1 while its extent is not known, 4 when it lies on no plane, else which of Census::SIZES its shorter side falls into. */
    private const SIZE = 'case when %1$s.width is null or %1$s.height is null then -1 when %1$s.height < 0 then 4 when min(%1$s.width, %1$s.height) < 16 then 0 when min(%1$s.width, %1$s.height) < 32 then 1 when min(%1$s.width, %1$s.height) < 96 then 2 else 3 end';

    private const SIZE_BEFORE = 'case when %1$s.width is null or %1$s.height is null then -1 when min(%1$s.width, %1$s.height) < 16 then 0 when min(%1$s.width, %1$s.height) < 32 then 1 when min(%1$s.width, %1$s.height) < 96 then 2 else 3 end';

    public function up(): void
    {
        Schema::create('texts', function (Blueprint $table): void {
            $table->foreignId('asset_id')->primary()->constrained()->cascadeOnDelete();
            $table->text('body');
            // tokens the text came with, as Tokens has them; null: those of its language
            $table->json('tokens')->nullable();
        });
        $this->count(self::SIZE);
    }

    public function down(): void
    {
        $this->count(self::SIZE_BEFORE);
        Schema::drop('texts');
    }

    /** The triggers that keep `mark_counts`, with another way to tell sizes; counts kept by the other way are made again. */
    private function count(string $by): void
    {
        $more = 'on conflict (project_id, set_id, state, class, size) do update set marks = marks + excluded.marks';
        $size = static fn (string $of): string => sprintf($by, $of);
        $counted = static fn (string $of): string => "{$of}.layer = 'agreed' and {$of}.deleted_at is null";
        $count = static fn (string $of, int $n): string => "insert into mark_counts select {$of}.project_id, items.set_id, items.state, {$of}.class, {$size($of)}, {$n} from items where items.id = {$of}.item_id and {$counted($of)} and exists (select 1 from projects where projects.id = items.project_id) {$more};";
        $all = static fn (string $item, string $sign): string => "insert into mark_counts select {$item}.project_id, {$item}.set_id, {$item}.state, marks.class, {$size('marks')}, {$sign} count(*) from marks where marks.item_id = {$item}.id and {$counted('marks')} and exists (select 1 from projects where projects.id = {$item}.project_id) group by 4, 5 {$more};";
        foreach (['marks_counted_in', 'marks_counted_on', 'marks_counted_out', 'items_counted_on', 'items_counted_out'] as $trigger) {
            DB::unprepared("drop trigger {$trigger}");
        }
        DB::unprepared("create trigger marks_counted_in after insert on marks when {$counted('new')} begin {$count('new', 1)} end");
        DB::unprepared("create trigger marks_counted_on after update of item_id, layer, class, deleted_at, width, height on marks begin {$count('old', -1)} {$count('new', 1)} end");
        DB::unprepared("create trigger marks_counted_out after delete on marks when {$counted('old')} begin {$count('old', -1)} end");
        DB::unprepared("create trigger items_counted_on after update of state, set_id on items when old.state is not new.state or old.set_id is not new.set_id begin {$all('old', '-')} {$all('new', '')} end");
        // before: its marks go with it, and do not find it any more. With its project the counts are gone already
        DB::unprepared("create trigger items_counted_out before delete on items begin {$all('old', '-')} end");
    }
};
