<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('assignments', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->text('note')->default('');
            $table->integer('priority')->default(0);
            $table->boolean('needs_review')->default(true);
            $table->unsignedTinyInteger('overlap')->default(1);
            $table->json('rules')->default('{}');
            $table->timestamps();
        });
        Schema::create('assignment_people', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('assignment_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->string('part');
            $table->unique(['assignment_id', 'user_id', 'part']);
            $table->index(['user_id', 'part']);
        });
        Schema::create('turns', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('assignment_id')->nullable()->constrained()->cascadeOnDelete();
            $table->string('stage')->default('label');
            $table->unsignedTinyInteger('pass')->default(1);
            $table->unsignedSmallInteger('round')->default(1);
            $table->string('layer')->default('agreed');
            $table->string('state')->default('waiting');
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->foreignId('last_user_id')->nullable()->constrained('users')->nullOnDelete();
            $table->dateTime('leased_until')->nullable();
            $table->boolean('preloaded')->default(false);
            $table->foreignId('reviewer_id')->nullable()->constrained('users')->nullOnDelete();
            $table->dateTime('review_leased_until')->nullable();
            $table->dateTime('reviewed_at')->nullable();
            $table->unsignedInteger('seconds')->default(0);
            $table->dateTime('submitted_at')->nullable();
            $table->dateTime('decided_at')->nullable();
            $table->timestamps();
            $table->unique(['item_id', 'assignment_id', 'stage', 'pass', 'round']);
            $table->index(['project_id', 'state']);
            $table->index(['assignment_id', 'state']);
            $table->index(['user_id', 'state']);
        });
        Schema::create('marks', function (Blueprint $table): void {
            $table->string('id', 26)->primary();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('turn_id')->nullable()->constrained()->nullOnDelete();
            $table->string('layer')->default('agreed');
            $table->foreignId('author_id')->nullable()->constrained('users')->nullOnDelete();
            $table->string('source')->default('hand');
            $table->string('class');
            $table->string('kind');
            $table->json('geometry');
            $table->json('answers')->default('{}');
            $table->integer('stack')->nullable();
            $table->unsignedInteger('revision')->default(1);
            $table->dateTime('deleted_at')->nullable();
            $table->timestamps();
            $table->index(['item_id', 'layer']);
            $table->index(['project_id', 'class']);
        });
        Schema::create('mark_history', function (Blueprint $table): void {
            $table->id();
            $table->string('mark_id', 26)->index();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('action');
            $table->unsignedInteger('revision');
            $table->json('before')->nullable();
            $table->json('after')->nullable();
            $table->dateTime('created_at');
        });
        Schema::create('edits', function (Blueprint $table): void {
            $table->string('id', 26)->primary();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('mark_id', 26);
            $table->unsignedInteger('revision');
            $table->dateTime('created_at');
        });
        Schema::create('decisions', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('turn_id')->constrained()->cascadeOnDelete();
            $table->foreignId('reviewer_id')->nullable()->constrained('users')->nullOnDelete();
            $table->string('decision');
            $table->text('reason')->default('');
            $table->timestamps();
        });
        Schema::create('pins', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('turn_id')->constrained()->cascadeOnDelete();
            $table->foreignId('author_id')->nullable()->constrained('users')->nullOnDelete();
            $table->string('mark_id', 26)->nullable();
            $table->float('x');
            $table->float('y');
            $table->text('text');
            $table->timestamps();
        });
        Schema::create('releases', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->unsignedInteger('number');
            $table->string('state')->default('waiting');
            $table->string('note')->default('');
            $table->json('recipe');
            $table->json('census')->nullable();
            $table->unsignedInteger('codebook_version');
            $table->string('sha256', 64)->nullable();
            $table->text('error')->default('');
            $table->timestamps();
            $table->unique(['project_id', 'number']);
        });
        Schema::create('editions', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('release_id')->constrained()->cascadeOnDelete();
            $table->string('format');
            $table->boolean('pictures');
            $table->string('state')->default('waiting');
            $table->unsignedBigInteger('bytes')->nullable();
            $table->string('sha256', 64)->nullable();
            $table->json('report')->nullable();
            $table->text('error')->default('');
            $table->timestamps();
            $table->unique(['release_id', 'format', 'pictures']);
        });
    }

    public function down(): void
    {
        foreach (['editions', 'releases', 'pins', 'decisions', 'edits', 'mark_history', 'marks', 'turns', 'assignment_people', 'assignments'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
