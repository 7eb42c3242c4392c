<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Models that are learned here, version by version, and trials of models on items whose truth is known. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('model_versions', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('model_id')->constrained()->cascadeOnDelete();
            $table->unsignedInteger('number');
            // waiting, working, done, failed, cancelled
            $table->string('state')->default('waiting');
            // in thousandths
            $table->unsignedInteger('done')->default(0);
            // items that were accepted when it was begun
            $table->unsignedInteger('accepted')->default(0);
            $table->json('learned')->default('{}');
            $table->json('figures')->default('{}');
            // held against the version before, on the same items
            $table->boolean('better')->nullable();
            $table->binary('packed')->nullable();
            $table->text('error')->default('');
            $table->timestamps();
            $table->unique(['model_id', 'number']);
            $table->index('state');
        });
        Schema::table('models', function (Blueprint $table): void {
            // connected, looks, regions, skeletons
            $table->string('kind')->default('connected');
            // the one in use of a learned model
            $table->unsignedBigInteger('version_id')->nullable();
        });
        Schema::table('runs', function (Blueprint $table): void {
            $table->unsignedBigInteger('version_id')->nullable();
        });
        Schema::create('trials', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('model_id')->nullable()->constrained()->nullOnDelete();
            $table->unsignedBigInteger('version_id')->nullable();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->string('model');
            $table->json('wish');
            $table->json('items');
            $table->string('state')->default('waiting');
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total')->default(0);
            $table->text('error')->default('');
            $table->timestamps();
            $table->index(['project_id', 'id']);
            $table->index('state');
            $table->index('model_id');
        });
        Schema::create('trial_items', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('trial_id')->constrained()->cascadeOnDelete();
            $table->unsignedBigInteger('item_id');
            $table->string('path')->nullable();
            // what was found held against the truth; null: it could not be asked about, and why
            $table->json('matched')->nullable();
            $table->text('failed')->default('');
            $table->unique(['trial_id', 'item_id']);
        });
    }

    public function down(): void
    {
        Schema::drop('trial_items');
        Schema::drop('trials');
        Schema::table('runs', fn (Blueprint $table) => $table->dropColumn('version_id'));
        Schema::table('models', fn (Blueprint $table) => $table->dropColumn(['kind', 'version_id']));
        Schema::drop('model_versions');
    }
};
