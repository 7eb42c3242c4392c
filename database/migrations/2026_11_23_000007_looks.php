<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('marks', function (Blueprint $table): void {
            // of the box around it, in px; null until the worker has looked at it
            $table->float('width')->nullable();
            $table->float('height')->nullable();
            // how far it lies from the looks of its class; null where that is not known
            $table->float('oddness')->nullable();
            $table->dropIndex(['project_id', 'class']);
            $table->index(['project_id', 'class', 'oddness']);
        });
        Schema::create('looks', function (Blueprint $table): void {
            $table->string('mark_id', 26)->primary();
            $table->foreign('mark_id')->references('id')->on('marks')->cascadeOnDelete();
            $table->binary('vector');
        });
        Schema::create('picture_looks', function (Blueprint $table): void {
            $table->foreignId('asset_id')->primary()->constrained()->cascadeOnDelete();
            $table->binary('vector');
        });
        Schema::create('class_looks', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->string('class');
            // objects the class had when it was learned
            $table->unsignedInteger('objects');
            $table->binary('looks');
            $table->timestamps();
            $table->unique(['project_id', 'class']);
        });
        Schema::table('projects', function (Blueprint $table): void {
            $table->boolean('slip_guard')->default(true);
            // since when a worker has been asked to look at what is new
            $table->dateTime('looks_asked_at')->nullable();
        });
    }

    public function down(): void
    {
        Schema::table('projects', fn (Blueprint $table) => $table->dropColumn(['slip_guard', 'looks_asked_at']));
        foreach (['class_looks', 'picture_looks', 'looks'] as $table) {
            Schema::dropIfExists($table);
        }
        Schema::table('marks', function (Blueprint $table): void {
            $table->dropIndex(['project_id', 'class', 'oddness']);
            $table->index(['project_id', 'class']);
            $table->dropColumn(['width', 'height', 'oddness']);
        });
    }
};
