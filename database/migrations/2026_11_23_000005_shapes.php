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
            $table->string('part_of', 26)->nullable();
            $table->json('flags')->default('[]');
            // of a mark of kind "item", which says what holds for the item as a whole
            $table->json('tags')->default('[]');
        });
    }

    public function down(): void
    {
        Schema::table('marks', function (Blueprint $table): void {
            $table->dropColumn(['part_of', 'flags', 'tags']);
        });
    }
};
