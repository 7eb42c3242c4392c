<?php

declare(strict_types=1);

namespace App\Access;

use App\Models\Membership;
use App\Models\Project;
use App\Models\User;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Rights;
use Skeno\Core\People\Role;

/** The person who asks, with their rights. */
final class Actor
{
    /** @var array<int, ?Role> */
    private array $roles = [];

    public function __construct(public readonly User $user)
    {
    }

    public function roleIn(Project $project): ?Role
    {
        if (! array_key_exists($project->id, $this->roles)) {
            $role = Membership::query()->where('project_id', $project->id)->where('user_id', $this->user->id)->value('role');
            $this->roles[$project->id] = $role instanceof Role ? $role : null;
        }

        return $this->roles[$project->id];
    }

    public function may(Ability $ability, ?Project $project): bool
    {
        if ($ability->isOfInstallation()) {
            return Rights::ofInstallation($ability, $this->user->is_owner, $this->user->can_create);
        }
        if ($project === null) {
            return false;
        }
        $role = $this->roleIn($project);

        return ($role !== null && Rights::ofRole($role, $ability)) || ($this->user->is_owner && Rights::ofOwner($ability));
    }

    /** @return list<string> abilities in a project, for the screen to show what can be done */
    public function abilities(Project $project): array
    {
        return array_values(array_map(static fn (Ability $ability): string => $ability->value, array_filter(Ability::cases(), fn (Ability $ability): bool => ! $ability->isOfInstallation() && $this->may($ability, $project))));
    }
}
