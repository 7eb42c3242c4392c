<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('assets', function (Blueprint $table): void {
            $table->id();
            $table->string('hash', 64)->unique();
            $table->unsignedBigInteger('bytes');
            $table->string('format');
            $table->unsignedInteger('width');
            $table->unsignedInteger('height');
            $table->unsignedTinyInteger('orientation');
            $table->unsignedTinyInteger('depth');
            $table->string('colour_space');
            $table->dateTime('derived_at')->nullable();
            $table->timestamps();
        });
        Schema::create('sets', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->string('path');
            $table->timestamps();
            $table->unique(['project_id', 'path']);
        });
        Schema::create('items', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('set_id')->constrained()->cascadeOnDelete();
            $table->foreignId('asset_id')->constrained();
            $table->string('path');
            $table->string('state')->default('new');
            $table->boolean('nothing')->default(false);
            $table->unsignedInteger('mark_count')->default(0);
            $table->string('part')->nullable();
            $table->dateTime('archived_at')->nullable();
            $table->timestamps();
            $table->unique(['project_id', 'path']);
            $table->index(['project_id', 'asset_id']);
            $table->index(['project_id', 'state']);
        });
        Schema::create('imports', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('state')->default('receiving');
            $table->boolean('again')->default(false);
            $table->json('options')->default('{}');
            $table->json('labels')->nullable();
            $table->timestamps();
        });
        Schema::create('import_files', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('import_id')->constrained()->cascadeOnDelete();
            $table->foreignId('item_id')->nullable()->constrained()->nullOnDelete();
            $table->string('path');
            $table->unsignedBigInteger('bytes')->default(0);
            $table->unsignedBigInteger('received')->default(0);
            $table->string('state')->default('receiving');
            $table->string('reason')->default('');
            $table->timestamps();
            $table->unique(['import_id', 'path']);
            $table->index(['import_id', 'state']);
        });
    }

    public function down(): void
    {
        foreach (['import_files', 'imports', 'items', 'sets', 'assets'] as $table) {
            Schema::dropIfExists($table);
        }
    }
};
