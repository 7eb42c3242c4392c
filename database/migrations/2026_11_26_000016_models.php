<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Models that are asked for suggestions, where they may be asked, and what their runs have come to. */
return new class extends Migration
{
    public function up(): void
    {
        // addresses the owner of the installation has allowed; nothing else is ever called
        Schema::create('endpoints', function (Blueprint $table): void {
            $table->id();
            $table->string('address')->unique();
            // whether it may lead to a private network, or this very machine
            $table->boolean('private')->default(false);
            $table->timestamps();
        });
        Schema::create('models', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->string('name');
            $table->foreignId('endpoint_id')->nullable()->constrained()->restrictOnDelete();
            // what it is called where it lives
            $table->string('remote')->default('');
            $table->json('card');
            $table->timestamps();
            $table->unique(['project_id', 'name']);
            $table->index('endpoint_id');
        });
        Schema::table('runs', function (Blueprint $table): void {
            $table->foreignId('model_id')->nullable()->constrained()->nullOnDelete();
            // what is asked of it: classes, confidence, what stays
            $table->json('wish')->default('{}');
            $table->json('items')->default('[]');
            // waiting, working, paused, done, failed, cancelled, taken back; label files are brought in at once
            $table->string('state')->default('done');
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total')->default(0);
            $table->json('report')->default('{}');
            $table->text('error')->default('');
            $table->index('model_id');
            $table->index('state');
        });
    }

    public function down(): void
    {
        Schema::table('runs', function (Blueprint $table): void {
            $table->dropIndex(['state']);
            $table->dropIndex(['model_id']);
            $table->dropConstrainedForeignId('model_id');
            $table->dropColumn(['wish', 'items', 'state', 'done', 'total', 'report', 'error']);
        });
        Schema::drop('models');
        Schema::drop('endpoints');
    }
};
