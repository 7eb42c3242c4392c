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
        Schema::table('mark_keys', function (Blueprint $table): void {
            $table->float('size')->default(0);
            // the check found something about it when it was written
            $table->boolean('faulty')->default(false);
        });
        // keys that say more than where the object is: while a hand draws only these are looked at, however many a track has
        DB::statement("create index mark_keys_telling on mark_keys (mark_id, place) where faulty = 1 or answers != '{}'");
        // what is said of some places of an item's axis: tags, and answers that switch
        Schema::table('layers', fn (Blueprint $table) => $table->json('stretches')->default('[]'));
        // which frames of clips an edition in a format of pictures holds
        Schema::table('editions', function (Blueprint $table): void {
            $table->string('frames')->default('');
            $table->dropUnique(['release_id', 'format', 'pictures', 'layout']);
            $table->unique(['release_id', 'format', 'pictures', 'layout', 'frames']);
        });
        // jobs whose classes have other names now; they are found again by what waits for them
        DB::table('jobs')->where('payload', 'like', '%DerivePictures%')->delete();
    }

    public function down(): void
    {
        Schema::table('editions', function (Blueprint $table): void {
            $table->dropUnique(['release_id', 'format', 'pictures', 'layout', 'frames']);
            $table->dropColumn('frames');
            $table->unique(['release_id', 'format', 'pictures', 'layout']);
        });
        Schema::table('layers', fn (Blueprint $table) => $table->dropColumn('stretches'));
        DB::statement('drop index mark_keys_telling');
        Schema::table('mark_keys', fn (Blueprint $table) => $table->dropColumn(['size', 'faulty']));
        Schema::table('import_files', fn (Blueprint $table) => $table->dropColumn('progress'));
    }
};
