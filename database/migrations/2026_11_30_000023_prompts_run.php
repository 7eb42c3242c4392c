<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Prompts are asked in runs as models are, and a trial of one keeps what stood beside what. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('runs', function (Blueprint $table): void {
            // of a run of a prompt; null: a model is asked, or label files were brought in
            $table->foreignId('prompt_version_id')->nullable()->constrained()->nullOnDelete();
            $table->index('prompt_version_id');
        });
        Schema::table('prompt_trial_items', function (Blueprint $table): void {
            // `{pairs, answers, tags}`, known beside said; apart from the result, which is summed often
            $table->json('compared')->nullable();
        });
    }

    public function down(): void
    {
        Schema::table('prompt_trial_items', fn (Blueprint $table) => $table->dropColumn('compared'));
        Schema::table('runs', function (Blueprint $table): void {
            $table->dropIndex(['prompt_version_id']);
            $table->dropConstrainedForeignId('prompt_version_id');
        });
    }
};
