<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** A route may begin with a model: new items are asked about before a labeller sees them. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('projects', function (Blueprint $table): void {
            // {model, classes, from, then}; null: work begins with people
            $table->json('model_stage')->nullable();
        });
        Schema::table('items', function (Blueprint $table): void {
            // the run an item waits for; it is given to nobody until then
            $table->unsignedBigInteger('helping_run_id')->nullable();
            // when the model stage has been over it, whatever came of that
            $table->timestamp('helped_at')->nullable();
            $table->index('helping_run_id');
        });
    }

    public function down(): void
    {
        Schema::table('items', function (Blueprint $table): void {
            $table->dropIndex(['helping_run_id']);
            $table->dropColumn(['helping_run_id', 'helped_at']);
        });
        Schema::table('projects', fn (Blueprint $table) => $table->dropColumn('model_stage'));
    }
};
