<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('seen', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->text('cells');
            $table->dateTime('updated_at');
            $table->unique(['item_id', 'user_id']);
        });
        Schema::table('projects', function (Blueprint $table): void {
            $table->boolean('require_seen')->default(false);
            // px of the screen a px of the picture must have for it to count as looked at
            $table->float('seen_zoom')->default(0.5);
        });
        Schema::table('marks', function (Blueprint $table): void {
            $table->float('confidence')->nullable();
        });
        Schema::table('items', function (Blueprint $table): void {
            $table->json('facts')->default('{}');
        });
        Schema::table('turns', function (Blueprint $table): void {
            $table->text('parked_because')->default('');
        });
    }

    public function down(): void
    {
        Schema::table('turns', fn (Blueprint $table) => $table->dropColumn('parked_because'));
        Schema::table('items', fn (Blueprint $table) => $table->dropColumn('facts'));
        Schema::table('marks', fn (Blueprint $table) => $table->dropColumn('confidence'));
        Schema::table('projects', fn (Blueprint $table) => $table->dropColumn(['require_seen', 'seen_zoom']));
        Schema::dropIfExists('seen');
    }
};
