<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Chat models, prompts in versions, and trials of these on texts whose truth is known. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('chat_models', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->string('name');
            $table->foreignId('endpoint_id')->constrained()->restrictOnDelete();
            // what it is called where it lives, and where there it is asked
            $table->string('remote');
            $table->string('path');
            // encrypted with the key of this installation, and never shown
            $table->text('secret')->nullable();
            // for a million tokens; null: nobody has said
            $table->json('price')->nullable();
            $table->unsignedInteger('most_tokens');
            $table->timestamps();
            $table->unique(['project_id', 'name']);
            $table->index('endpoint_id');
        });
        Schema::create('prompts', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->string('name');
            $table->timestamps();
            $table->unique(['project_id', 'name']);
        });
        Schema::create('prompt_versions', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('prompt_id')->constrained()->cascadeOnDelete();
            $table->unsignedInteger('number');
            $table->foreignId('chat_model_id')->nullable()->constrained()->nullOnDelete();
            $table->json('task');
            $table->text('words');
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->timestamps();
            $table->unique(['prompt_id', 'number']);
            $table->index('chat_model_id');
        });
        Schema::create('prompt_trials', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('prompt_version_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->json('items');
            // waiting, working, done, failed, cancelled
            $table->string('state')->default('waiting');
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total');
            $table->text('error')->default('');
            $table->timestamps();
            $table->index('project_id');
            $table->index('prompt_version_id');
            $table->index('state');
        });
        Schema::create('prompt_trial_items', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('prompt_trial_id')->constrained()->cascadeOnDelete();
            $table->unsignedBigInteger('item_id');
            $table->string('path')->nullable();
            // what was said and how it stands to the truth; null: it failed
            $table->json('result')->nullable();
            $table->text('failed')->default('');
            $table->float('seconds')->default(0);
            $table->unsignedInteger('tokens_in')->nullable();
            $table->unsignedInteger('tokens_out')->nullable();
            $table->unique(['prompt_trial_id', 'item_id']);
        });
    }

    public function down(): void
    {
        foreach (['prompt_trial_items', 'prompt_trials', 'prompt_versions', 'prompts', 'chat_models'] as $table) {
            Schema::drop($table);
        }
    }
};
