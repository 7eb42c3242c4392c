<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** What a person holds, how far an assignment is, of which classes an item has marks, and a sheet by size: each read from an index alone. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('turns', function (Blueprint $table): void {
            $table->dropIndex(['user_id', 'state']);
            $table->dropIndex(['assignment_id', 'followed', 'state']);
            $table->index(['user_id', 'project_id', 'stage', 'state', 'followed', 'item_id', 'seconds'], 'turns_held');
            $table->index(['assignment_id', 'stage', 'followed', 'state', 'item_id', 'last_user_id'], 'turns_of_assignment');
        });
        // what leases that ran out still hold is asked with every next item
        DB::statement('create index turns_leased on turns (leased_until) where leased_until is not null');
        DB::statement("create index marks_of_item on marks (item_id, class) where layer = 'agreed' and deleted_at is null");
        // the terms of Objects::sorting, word for word
        DB::statement("create index marks_by_size on marks (project_id, class, width is null, width * height, id, item_id) where layer = 'agreed' and deleted_at is null");
    }

    public function down(): void
    {
        DB::statement('drop index marks_by_size');
        DB::statement('drop index marks_of_item');
        DB::statement('drop index turns_leased');
        Schema::table('turns', function (Blueprint $table): void {
            $table->dropIndex('turns_of_assignment');
            $table->dropIndex('turns_held');
            $table->index(['user_id', 'state']);
            $table->index(['assignment_id', 'followed', 'state']);
        });
    }
};
