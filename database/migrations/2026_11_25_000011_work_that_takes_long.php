<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('chores', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('kind');
            $table->json('input');
            $table->string('state')->default('waiting');
            $table->unsignedInteger('done')->default(0);
            $table->unsignedInteger('total')->default(0);
            $table->json('report')->nullable();
            $table->text('error')->default('');
            $table->timestamps();
            $table->index(['project_id', 'state']);
            $table->index('state');
        });
        // pictures read so far, while labels are taken in
        Schema::table('imports', fn (Blueprint $table) => $table->unsignedInteger('done')->default(0));
        Schema::table('codebook_changes', fn (Blueprint $table) => $table->text('error')->default(''));
        Schema::table('releases', fn (Blueprint $table) => $table->index('state'));
        Schema::table('editions', fn (Blueprint $table) => $table->index('state'));
        Schema::table('assets', fn (Blueprint $table) => $table->index('derived_at'));
        // labels nobody has looked at yet are asked for with every list of objects
        Schema::table('marks', fn (Blueprint $table) => $table->index(['project_id', 'layer', 'width']));
    }

    public function down(): void
    {
        Schema::table('marks', fn (Blueprint $table) => $table->dropIndex(['project_id', 'layer', 'width']));
        Schema::table('assets', fn (Blueprint $table) => $table->dropIndex(['derived_at']));
        Schema::table('editions', fn (Blueprint $table) => $table->dropIndex(['state']));
        Schema::table('releases', fn (Blueprint $table) => $table->dropIndex(['state']));
        Schema::table('codebook_changes', fn (Blueprint $table) => $table->dropColumn('error'));
        Schema::table('imports', fn (Blueprint $table) => $table->dropColumn('done'));
        Schema::dropIfExists('chores');
    }
};
