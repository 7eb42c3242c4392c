<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\CodebookVersion;
use App\Models\Membership;
use App\Models\Project;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Role;

/** Creates projects. */
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
}
