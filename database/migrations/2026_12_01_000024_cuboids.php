<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** What lists of cuboids are narrowed by. It can be measured again from marks and clouds. */
return new class extends Migration
{
    public function up(): void
    {
        Schema::create('cuboid_measures', function (Blueprint $table): void {
            $table->string('mark_id', 26)->primary();
            $table->foreign('mark_id')->references('id')->on('marks')->cascadeOnDelete();
            // in it at the frame it is shown by; null: its cloud had to be made again
            $table->unsignedInteger('points')->nullable();
            // metres
            $table->float('distance');
            $table->float('length');
        });
        // they are looked at once more
        DB::table('marks')->where('kind', 'cuboid')->update(['width' => null, 'height' => null]);
    }

    public function down(): void
    {
        Schema::dropIfExists('cuboid_measures');
    }
};
