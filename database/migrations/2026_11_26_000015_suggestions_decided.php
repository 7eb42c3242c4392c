<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** What hands decide about suggestions. */
return new class extends Migration
{
    public function up(): void
    {
        // a suggestion somebody has looked at and found wrong, for one layer of its item: it is not offered there again
        Schema::create('suggestion_drops', function (Blueprint $table): void {
            $table->foreignId('layer_id')->constrained()->cascadeOnDelete();
            $table->string('suggestion_id', 26);
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->timestamp('created_at');
            $table->primary(['layer_id', 'suggestion_id']);
            $table->index('suggestion_id');
        });
    }

    public function down(): void
    {
        Schema::drop('suggestion_drops');
    }
};
