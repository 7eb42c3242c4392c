<?php

declare(strict_types=1);

namespace App\Projects;

use App\Http\Refusal;
use App\Models\CodebookVersion;
use App\Models\HandbookVersion;
use App\Models\Membership;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookChange;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\People\Role;

/** Creates projects and changes what describes them. */
final class Projects
{
    /** @param  ?User  $creator becomes its manager; null when made by command */
    public function create(string $name, string $description, string $group, Codebook $codebook, ?User $creator): Project
    {
        $name = trim($name);
        if ($name === '' || mb_strlen($name) > 120) {
            throw InvalidValue::at('name', $name, 'a name of 1 to 120 characters');
        }

        return DB::transaction(static function () use ($name, $description, $group, $codebook, $creator): Project {
            if (Project::query()->where('name', $name)->exists()) {
                throw Refusal::because('name_taken', "there is already a project \"{$name}\"");
            }
            $project = Project::query()->create(['name' => $name, 'description' => $description, 'group' => $group])->refresh();
            CodebookVersion::query()->create(['project_id' => $project->id, 'version' => 1, 'body' => $codebook->toJson(), 'note' => 'first version', 'created_by' => $creator?->id]);
            if ($creator !== null) {
                Membership::query()->create(['project_id' => $project->id, 'user_id' => $creator->id, 'role' => Role::Manager]);
            }

            return $project;
        });
    }

    /** What a new codebook would do to the labels there are. */
    public function effect(Project $project, Codebook $new): CodebookChange
    {
        $marks = DB::table('marks')->where('project_id', $project->id)->where('kind', '!=', ItemAnswers::KIND)->whereNull('deleted_at')->groupBy('class')->selectRaw('class, count(*) as n')->pluck('n', 'class')->map(static fn (mixed $n): int => (int) $n)->all();
        $answers = [];
        $rows = DB::table('marks')->where('project_id', $project->id)->where('kind', '!=', ItemAnswers::KIND)->whereNull('deleted_at')->where('answers', '!=', '{}')->groupBy('class', 'answers')->selectRaw('class, answers, count(*) as n')->get();
        foreach ($rows as $row) {
            foreach ((array) json_decode((string) $row->answers, true) as $attribute => $answer) {
                $json = (string) json_encode($answer);
                $answers[(string) $row->class][(string) $attribute][$json] = ($answers[(string) $row->class][(string) $attribute][$json] ?? 0) + (int) $row->n;
            }
        }
        /** @var array<string, int> $marks */

        return CodebookChange::between($project->codebookVersion()->codebook(), $new, $marks, $answers);
    }

    /** @throws Refusal when another version came in between, or labels would lose their meaning */
    public function changeCodebook(Project $project, Codebook $new, int $base, string $note, ?User $author): CodebookVersion
    {
        return DB::transaction(function () use ($project, $new, $base, $note, $author): CodebookVersion {
            $latest = $project->codebookVersion();
            if ($latest->version !== $base) {
                throw Refusal::because('codebook_changed', "somebody has saved version {$latest->version} meanwhile; yours is still on this page", 409, ['version' => $latest->version]);
            }
            $change = $this->effect($project, $new);
            if ($change->orphans !== []) {
                throw Refusal::because('labels_orphaned', 'labels in use would lose their meaning: '.implode('; ', array_column(array_slice($change->orphans, 0, 3), 'message')), 409, ['orphans' => $change->orphans]);
            }
            if ($latest->codebook()->toArray() === $new->toArray()) {
                return $latest;
            }

            return CodebookVersion::query()->create(['project_id' => $project->id, 'version' => $base + 1, 'body' => $new->toJson(), 'note' => $note, 'created_by' => $author?->id])->refresh();
        });
    }

    public function changeHandbook(Project $project, string $body, int $base, ?User $author): HandbookVersion
    {
        return DB::transaction(static function () use ($project, $body, $base, $author): HandbookVersion {
            $latest = HandbookVersion::query()->where('project_id', $project->id)->orderByDesc('version')->first();
            if (($latest->version ?? 0) !== $base) {
                throw Refusal::because('handbook_changed', 'somebody has saved the handbook meanwhile; your text is still on this page', 409);
            }
            if ($latest?->body === $body) {
                return $latest;
            }

            return HandbookVersion::query()->create(['project_id' => $project->id, 'version' => $base + 1, 'body' => $body, 'created_by' => $author?->id])->refresh();
        });
    }
}
