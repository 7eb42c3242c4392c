<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/** Clips take long to come in, and their marks have keys. */
return new class extends Migration
{
    public function up(): void
    {
        // how far a file is that is being taken, in words
        Schema::table('import_files', fn (Blueprint $table) => $table->string('progress')->default(''));
        // how well the object is seen at a key, in px² of the box around it: the best is the track's face
        Schema::table('mark_keys', fn (Blueprint $table) => $table->float('size')->default(0));
        // jobs whose classes have other names now; they are found again by what waits for them
        DB::table('jobs')->where('payload', 'like', '%DerivePictures%')->delete();
    }

    public function down(): void
    {
        Schema::table('mark_keys', fn (Blueprint $table) => $table->dropColumn('size'));
        Schema::table('import_files', fn (Blueprint $table) => $table->dropColumn('progress'));
    }
};
