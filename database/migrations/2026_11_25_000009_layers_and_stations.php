<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * Layers become rows (with what is said of the item, and "nothing there"), an assignment's route becomes stations, a review becomes a
 * turn of its own. Items get a kind and files with a role and a place; marks of clips and volumes get keys of their own.
 */
return new class extends Migration
{
    public function up(): void
    {
        // tables are rebuilt below; with foreign keys on, dropping the old ones would take what points at them along
        Schema::disableForeignKeyConstraints();
        DB::transaction(function (): void {
            $this->layers();
            $this->sayings();
            $this->stations();
            $this->reviews();
            $this->kinds();
            $this->indexes();
            // jobs are found again by what waits for them; their classes have other names now
            DB::table('jobs')->delete();
            $broken = DB::select('pragma foreign_key_check');
            if ($broken !== []) {
                throw new RuntimeException('the migration would lose what rows point at: '.json_encode(array_slice($broken, 0, 5)));
            }
        });
        Schema::enableForeignKeyConstraints();
    }

    private function layers(): void
    {
        Schema::create('runs', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('created_by')->nullable()->constrained('users')->nullOnDelete();
            $table->foreignId('import_id')->nullable()->constrained()->nullOnDelete();
            $table->string('model');
            $table->timestamps();
            $table->index('project_id');
        });
        Schema::create('layers', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('project_id')->constrained()->cascadeOnDelete();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('assignment_id')->nullable()->constrained()->cascadeOnDelete();
            $table->foreignId('run_id')->nullable()->constrained()->cascadeOnDelete();
            $table->string('kind');
            $table->unsignedTinyInteger('pass')->nullable();
            $table->string('name');
            $table->boolean('nothing')->default(false);
            $table->unsignedInteger('mark_count')->default(0);
            $table->json('answers')->default('{}');
            $table->json('tags')->default('[]');
            $table->unsignedInteger('revision')->default(0);
            $table->foreignId('author_id')->nullable()->constrained('users')->nullOnDelete();
            $table->string('source')->default('hand');
            $table->timestamps();
            $table->unique(['item_id', 'name']);
            $table->index(['project_id', 'kind']);
            $table->index('run_id');
        });
        $layers = ['project_id', 'item_id', 'assignment_id', 'run_id', 'kind', 'pass', 'name', 'nothing', 'created_at', 'updated_at'];
        DB::table('layers')->insertUsing($layers, DB::table('items')->selectRaw('project_id, id, null, null, \'agreed\', null, \'agreed\', "nothing", created_at, updated_at'));
        foreach (DB::table('turns')->where('layer', 'like', 'blind/%')->whereNotNull('assignment_id')->select('project_id', 'item_id', 'assignment_id', 'pass', 'layer')->distinct()->get() as $blind) {
            DB::table('layers')->insert(['project_id' => $blind->project_id, 'item_id' => $blind->item_id, 'assignment_id' => $blind->assignment_id, 'kind' => 'blind', 'pass' => $blind->pass, 'name' => $blind->layer, 'created_at' => now(), 'updated_at' => now()]);
        }
        foreach (DB::table('marks')->where('layer', 'suggestions')->distinct()->pluck('project_id') as $project) {
            $run = DB::table('runs')->insertGetId(['project_id' => $project, 'model' => 'label files brought in as suggestions', 'created_at' => now(), 'updated_at' => now()]);
            DB::table('layers')->insertUsing($layers, DB::table('marks')->where('project_id', $project)->where('layer', 'suggestions')->groupBy('project_id', 'item_id')->selectRaw("project_id, item_id, null, {$run}, 'suggestion', null, 'suggestion/{$run}', 0, min(created_at), max(updated_at)"));
        }
        Schema::table('marks', function (Blueprint $table): void {
            $table->foreignId('layer_id')->nullable()->constrained()->cascadeOnDelete();
            // the suggestion a hand has confirmed
            $table->string('suggestion_id', 26)->nullable();
            // of a mark in a draft: the agreed mark it was copied from, and how that was then
            $table->string('origin_id', 26)->nullable();
            $table->unsignedInteger('origin_revision')->nullable();
        });
        Schema::table('mark_history', fn (Blueprint $table) => $table->foreignId('layer_id')->nullable()->constrained()->cascadeOnDelete());
        DB::update("update marks set layer_id = (select l.id from layers l where l.item_id = marks.item_id and (l.name = marks.layer or (marks.layer = 'suggestions' and l.kind = 'suggestion')))");
        DB::update('update mark_history set layer_id = (select m.layer_id from marks m where m.id = mark_history.mark_id)');
    }

    /** What is said of an item as a whole was a mark under an id anybody can work out; it belongs to the layer. */
    private function sayings(): void
    {
        DB::update("update layers set
            answers = coalesce((select case when m.deleted_at is null and m.answers != '[]' then m.answers end from marks m where m.layer_id = layers.id and m.kind = 'item'), '{}'),
            tags = coalesce((select case when m.deleted_at is null then m.tags end from marks m where m.layer_id = layers.id and m.kind = 'item'), '[]'),
            revision = coalesce((select m.revision from marks m where m.layer_id = layers.id and m.kind = 'item'), 0),
            author_id = (select m.author_id from marks m where m.layer_id = layers.id and m.kind = 'item'),
            source = coalesce((select m.source from marks m where m.layer_id = layers.id and m.kind = 'item'), 'hand')
            where exists (select 1 from marks m where m.layer_id = layers.id and m.kind = 'item')");
        Schema::table('mark_history', fn (Blueprint $table) => $table->string('mark_id', 26)->nullable()->change());
        DB::update("update mark_history set mark_id = null where mark_id in (select id from marks where kind = 'item')");
        DB::delete("delete from marks where kind = 'item'");
        DB::update('update layers set mark_count = (select count(*) from marks m where m.layer_id = layers.id and m.deleted_at is null)');
        // of a layer only its kind is asked by those who look for marks
        DB::update("update marks set layer = 'suggestion' where layer = 'suggestions'");
        DB::update("update marks set layer = 'blind' where layer like 'blind/%'");
        Schema::table('marks', fn (Blueprint $table) => $table->dropColumn('tags'));
        // an edit is known by its id within its item, so that no other project can use it up
        Schema::rename('edits', 'edits_before');
        Schema::create('edits', function (Blueprint $table): void {
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->string('id', 26);
            $table->foreignId('user_id')->nullable()->constrained()->nullOnDelete();
            $table->string('mark_id', 26)->nullable();
            $table->unsignedInteger('revision');
            $table->dateTime('created_at');
            $table->primary(['item_id', 'id']);
        });
        DB::table('edits')->insertUsing(['item_id', 'id', 'user_id', 'mark_id', 'revision', 'created_at'], DB::table('edits_before')->select('item_id', 'id', 'user_id', 'mark_id', 'revision', 'created_at'));
        Schema::drop('edits_before');
    }

    private function stations(): void
    {
        Schema::create('stations', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('assignment_id')->constrained()->cascadeOnDelete();
            $table->unsignedTinyInteger('place');
            $table->string('stage');
            $table->float('share')->default(1);
            $table->unsignedTinyInteger('overlap')->default(1);
            $table->unique(['assignment_id', 'place']);
        });
        Schema::create('station_people', function (Blueprint $table): void {
            $table->foreignId('station_id')->constrained()->cascadeOnDelete();
            $table->foreignId('user_id')->constrained()->cascadeOnDelete();
            $table->primary(['station_id', 'user_id']);
            $table->index('user_id');
        });
        DB::table('stations')->insertUsing(['assignment_id', 'place', 'stage', 'overlap'], DB::table('assignments')->selectRaw("id, 0, 'label', overlap"));
        DB::table('stations')->insertUsing(['assignment_id', 'place', 'stage', 'overlap'], DB::table('assignments')->where('needs_review', true)->selectRaw("id, 1, 'review', 1"));
        DB::table('station_people')->insertUsing(['station_id', 'user_id'], DB::table('assignment_people')->join('stations', 'stations.assignment_id', '=', 'assignment_people.assignment_id')
            ->where(static fn ($query) => $query->where(static fn ($label) => $label->where('part', 'labeller')->where('stage', 'label'))->orWhere(static fn ($review) => $review->where('part', 'reviewer')->where('stage', 'review')))
            ->select('stations.id', 'assignment_people.user_id')->distinct());
        Schema::drop('assignment_people');
        Schema::table('assignments', fn (Blueprint $table) => $table->dropColumn(['needs_review', 'overlap']));
        Schema::table('turns', function (Blueprint $table): void {
            $table->foreignId('station_id')->nullable()->constrained()->cascadeOnDelete();
            $table->foreignId('layer_id')->nullable()->constrained()->cascadeOnDelete();
            // a later round of the same pass has taken its place
            $table->boolean('followed')->default(false);
            // a pass over accepted labels, which stand as they are until it is accepted itself
            $table->boolean('beside')->default(false);
            // when somebody first had it on the screen
            $table->dateTime('opened_at')->nullable();
            // why accepted work was opened again
            $table->text('reopened_because')->default('');
        });
        DB::update('update turns set station_id = (select s.id from stations s where s.assignment_id = turns.assignment_id and s.stage = turns.stage), layer_id = (select l.id from layers l where l.item_id = turns.item_id and l.name = turns.layer)');
        DB::update("update turns set layer_id = (select l.id from layers l where l.item_id = turns.item_id and l.name = 'agreed') where layer_id is null");
        DB::update('update turns set followed = 1 where exists (select 1 from turns later where later.item_id = turns.item_id and later.assignment_id is turns.assignment_id and later.stage = turns.stage and later.pass = turns.pass and later.round > turns.round)');
    }

    /** A review was a second lease on the labelled turn. */
    private function reviews(): void
    {
        Schema::table('decisions', fn (Blueprint $table) => $table->dateTime('taken_back_at')->nullable());
        $reviewed = DB::table('turns')->where('stage', 'label')->where(static fn ($query) => $query->where('state', 'submitted')->orWhereExists(static fn ($decisions) => $decisions->from('decisions')->whereColumn('decisions.turn_id', 'turns.id'))->orWhereExists(static fn ($pins) => $pins->from('pins')->whereColumn('pins.turn_id', 'turns.id')));
        foreach ($reviewed->orderBy('id')->get() as $turn) {
            $station = DB::table('stations')->where('assignment_id', $turn->assignment_id)->where('stage', 'review')->value('id');
            $decided = in_array($turn->state, ['accepted', 'returned'], true);
            $held = ! $decided && $turn->reviewer_id !== null && $turn->review_leased_until !== null;
            $before = DB::table('decisions')->join('turns', 'turns.id', '=', 'decisions.turn_id')->where('turns.item_id', $turn->item_id)->where('turns.assignment_id', $turn->assignment_id)->where('turns.round', '<', $turn->round)->orderByDesc('decisions.id')->value('decisions.reviewer_id');
            $review = DB::table('turns')->insertGetId([
                'project_id' => $turn->project_id, 'item_id' => $turn->item_id, 'assignment_id' => $turn->assignment_id, 'station_id' => $station, 'layer_id' => $turn->layer_id, 'layer' => $turn->layer,
                'stage' => 'review', 'pass' => $turn->pass, 'round' => $turn->round, 'state' => $decided ? $turn->state : ($held ? 'open' : 'waiting'), 'followed' => $turn->followed,
                'user_id' => $decided || $held ? $turn->reviewer_id : null, 'last_user_id' => $before, 'leased_until' => $held ? $turn->review_leased_until : null, 'opened_at' => $turn->reviewed_at,
                'decided_at' => $decided ? $turn->decided_at : null, 'created_at' => $turn->submitted_at ?? $turn->created_at, 'updated_at' => $turn->updated_at,
            ]);
            DB::table('decisions')->where('turn_id', $turn->id)->update(['turn_id' => $review]);
            DB::table('pins')->where('turn_id', $turn->id)->update(['turn_id' => $review]);
        }
        Schema::table('turns', function (Blueprint $table): void {
            $table->dropForeign(['reviewer_id']);
            $table->dropColumn(['layer', 'reviewer_id', 'review_leased_until', 'reviewed_at']);
        });
    }

    /** Items apart from pictures: what they are, which files they have, and keys of marks that stand at several places. */
    private function kinds(): void
    {
        Schema::table('items', fn (Blueprint $table) => $table->string('kind')->default('picture'));
        Schema::table('assets', function (Blueprint $table): void {
            $table->string('kind')->default('picture');
            // what a file of another kind is: rate and times of a clip, spacing of a volume, length of a text
            $table->json('facts')->default('{}');
            $table->renameColumn('hash', 'sha256');
            $table->renameColumn('colour_space', 'color_space');
        });
        Schema::create('item_files', function (Blueprint $table): void {
            $table->id();
            $table->foreignId('item_id')->constrained()->cascadeOnDelete();
            $table->foreignId('asset_id')->constrained();
            // beside the main one, which stands in the item's own row: page, frame, camera, calibration
            $table->string('role');
            $table->unsignedInteger('place')->default(0);
            $table->unique(['item_id', 'role', 'place']);
            $table->index('asset_id');
        });
        Schema::table('marks', function (Blueprint $table): void {
            // where it stands on the item's axis; null: no axis, or a track whose keys have the places
            $table->unsignedInteger('place')->nullable();
            // stretches of places in which a track is there: [[first, last], …]; null: no track
            $table->json('stretches')->nullable();
        });
        Schema::create('mark_keys', function (Blueprint $table): void {
            $table->string('mark_id', 26);
            $table->unsignedInteger('place');
            $table->json('geometry')->nullable();
            $table->json('answers')->default('{}');
            $table->boolean('hidden')->default(false);
            $table->string('source')->default('hand');
            $table->float('confidence')->nullable();
            $table->foreignId('author_id')->nullable()->constrained('users')->nullOnDelete();
            $table->unsignedInteger('revision')->default(1);
            $table->dateTime('deleted_at')->nullable();
            $table->timestamps();
            $table->primary(['mark_id', 'place']);
            $table->foreign('mark_id')->references('id')->on('marks')->cascadeOnDelete();
        });
        Schema::table('pins', function (Blueprint $table): void {
            // an anchor: a place on the axis, a point, an offset in a text or a point in space
            $table->unsignedInteger('place')->nullable();
            $table->float('z')->nullable();
            $table->unsignedInteger('offset')->nullable();
            $table->float('x')->nullable()->change();
            $table->float('y')->nullable()->change();
        });
    }

    /** What the queues and lists ask. */
    private function indexes(): void
    {
        Schema::table('turns', function (Blueprint $table): void {
            $table->dropIndex(['project_id', 'state']);
            $table->dropIndex(['assignment_id', 'state']);
            $table->index(['station_id', 'state', 'followed']);
            $table->index(['project_id', 'stage', 'state']);
            $table->index(['assignment_id', 'followed', 'state']);
            $table->index('layer_id');
        });
        Schema::table('decisions', function (Blueprint $table): void {
            $table->index('turn_id');
            $table->index('reviewer_id');
        });
        Schema::table('pins', function (Blueprint $table): void {
            $table->index('turn_id');
            $table->index('item_id');
        });
        Schema::table('proposals', function (Blueprint $table): void {
            $table->index(['item_id', 'kind']);
            $table->index(['author_id', 'answered_at']);
        });
        Schema::table('marks', function (Blueprint $table): void {
            $table->dropIndex(['item_id', 'layer']);
            $table->index(['layer_id', 'deleted_at']);
            $table->index('item_id');
            $table->index('turn_id');
            $table->index('suggestion_id');
        });
        Schema::table('mark_history', fn (Blueprint $table) => $table->index('item_id'));
        Schema::table('items', function (Blueprint $table): void {
            $table->index('asset_id');
            $table->index('set_id');
        });
        Schema::table('import_files', fn (Blueprint $table) => $table->index('item_id'));
        Schema::table('imports', fn (Blueprint $table) => $table->index(['project_id', 'state']));
    }

    public function down(): void
    {
        throw new RuntimeException('layers and stations can not be put back into what they came from; restore a backup');
    }
};
