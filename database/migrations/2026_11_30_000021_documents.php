<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

/** Documents: the words of their pages, and how far the reading of those is that brought none. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('pages', function (Blueprint $table): void {
            $table->foreignId('asset_id')->constrained()->cascadeOnDelete();
            $table->unsignedInteger('place');
            // as PageWords has them
            $table->json('words');
            // layer: from the text layer of its file; read: from its picture; failed: it could not be read, and why
            $table->string('source', 10);
            $table->string('reason', 250)->default('');
            $table->primary(['asset_id', 'place']);
        });
        Schema::create('readings', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('asset_id')->unique()->constrained()->cascadeOnDelete();
            $table->string('state', 20)->default('waiting')->index();
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total');
            $table->string('error')->default('');
            $table->timestamps();
        });
    }

    public function down(): void
    {
        Schema::drop('readings');
        Schema::drop('pages');
    }
};
