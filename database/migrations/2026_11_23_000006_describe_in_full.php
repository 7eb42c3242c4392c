<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('codebooks', function (Blueprint $table): void {
            // where the words of the version before went, and what became of how many labels
            $table->json('mapping')->default('{}');
            $table->json('report')->default('[]');
        });
        Schema::create('codebook_changes', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->unsignedInteger('base');
            $table->longText('body');
            $table->json('mapping');
            $table->string('note')->default('');
            $table->string('state')->default('working');
            // the last mark that has been looked at, written together with what became of it
            $table->string('cursor', 26)->default('');
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total')->default(0);
            $table->unsignedInteger('rewritten')->default(0);
            $table->json('report');
            $table->timestamps();
            $table->index(['project_id', 'state']);
        });
        Schema::create('proposals', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('author_id')->nullable()->constrained('users')->nullOnDelete();
            $table->foreignId('item_id')->nullable()->constrained()->nullOnDelete();
            $table->foreignId('turn_id')->nullable()->constrained()->nullOnDelete();
            $table->string('mark_id', 26)->nullable();
            $table->string('kind');
            $table->string('name')->default('');
            $table->text('text');
            $table->string('state')->default('open');
            $table->text('answer')->default('');
            $table->foreignId('answered_by')->nullable()->constrained('users')->nullOnDelete();
            $table->dateTime('answered_at')->nullable();
            $table->timestamps();
            $table->index(['project_id', 'state']);
        });
        Schema::create('handbook_files', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->string('name');
            $table->string('type', 40);
            $table->string('sha256', 64);
            $table->unsignedBigInteger('bytes');
            $table->timestamps();
            $table->unique(['project_id', 'sha256']);
        });
        Schema::table('editions', function (Blueprint $table): void {
            $table->string('layout')->default('');
            $table->dropUnique(['release_id', 'format', 'pictures']);
            $table->unique(['release_id', 'format', 'pictures', 'layout']);
        });
        Schema::table('imports', function (Blueprint $table): void {
            // formats of label files lying beside the pictures, kept until somebody takes them in
            $table->json('noticed')->default('[]');
            $table->text('error')->default('');
        });
        Schema::table('handbooks', function (Blueprint $table): void {
            // a handbook that is a PDF instead of Markdown
            $table->foreignId('file_id')->nullable()->constrained('handbook_files')->nullOnDelete();
        });
    }

    public function down(): void
    {
        Schema::table('handbooks', fn (Blueprint $table) => $table->dropConstrainedForeignId('file_id'));
        Schema::table('imports', fn (Blueprint $table) => $table->dropColumn(['noticed', 'error']));
        Schema::table('editions', function (Blueprint $table): void {
            $table->dropUnique(['release_id', 'format', 'pictures', 'layout']);
            $table->dropColumn('layout');
            $table->unique(['release_id', 'format', 'pictures']);
        });
        foreach (['handbook_files', 'proposals', 'codebook_changes'] as $table) {
            Schema::dropIfExists($table);
        }
        Schema::table('codebooks', fn (Blueprint $table) => $table->dropColumn(['mapping', 'report']));
    }
};
