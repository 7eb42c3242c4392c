<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** What models suggest to say of an item as a whole; how doubtful an item is to them, and queues in that order. */
return new class extends Migration
{
    public function up(): void
    {
        // a tag, or an answer to a question, of one layer of suggestions
        Schema::create('suggested_words', function (Blueprint $table): void {
            $table->string('id', 26)->primary();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('layer_id')->constrained()->cascadeOnDelete();
            // of the tag or the question
            $table->string('key', 64);
            // as an answer has it; null: it is a tag
            $table->json('answer')->nullable();
            $table->float('confidence')->nullable();
            $table->timestamp('created_at');
            $table->timestamp('deleted_at')->nullable();
            $table->index('item_id');
            $table->index('layer_id');
            $table->index('project_id');
        });
        Schema::table('items', function (Blueprint $table): void {
            // over what models suggested on it: one at one half is a whole doubt, one at 0 or 1 is none; null: nothing was suggested
            $table->float('doubt')->nullable();
        });
        DB::statement("update items set doubt = (select sum(1 - abs(2 * confidence - 1)) from marks where marks.item_id = items.id and marks.layer = 'suggestion' and marks.deleted_at is null and marks.confidence is not null)
            where id in (select item_id from layers where kind = 'suggestion')");
        Schema::table('turns', function (Blueprint $table): void {
            // where it comes in its queue, before the order in which items came in: 0 unless the queue has an order of its own
            $table->integer('place')->default(0);
        });
        DB::statement('drop index turns_ribbon');
        DB::statement('create index turns_ribbon on turns (station_id, followed, place, item_id, id, state, user_id)');
        DB::statement('drop index turns_station_id_state_followed_index');
        DB::statement('create index turns_of_station on turns (station_id, state, followed, place, id)');
    }

    public function down(): void
    {
        DB::statement('drop index turns_of_station');
        DB::statement('create index turns_station_id_state_followed_index on turns (station_id, state, followed)');
        DB::statement('drop index turns_ribbon');
        DB::statement('create index turns_ribbon on turns (station_id, followed, item_id, id, state, user_id)');
        Schema::table('turns', fn (Blueprint $table) => $table->dropColumn('place'));
        Schema::table('items', fn (Blueprint $table) => $table->dropColumn('doubt'));
        Schema::drop('suggested_words');
    }
};
