<?php

declare(strict_types=1);

namespace Skeno\Core\People;

/** The table of rights: who may what. Finer rules (own turns, own assignments, own work) are the workflow's. */
final class Rights
{
    /** Whether a role in a project carries an ability there; without a role nothing of a project exists. */
    public static function ofRole(Role $role, Ability $ability): bool
    {
        return match ($ability) {
            Ability::ManageInstallation, Ability::CreateProject => false,
            Ability::SeeProject => true,
            Ability::ManageProject => $role === Role::Manager,
            Ability::SeeFigures => $role === Role::Manager || $role === Role::Reviewer,
            Ability::SeeItems => $role !== Role::Labeller,
            Ability::Review => $role === Role::Manager || $role === Role::Reviewer,
            Ability::Label => $role !== Role::Guest,
        };
    }

    /** What the owner of the installation may do in every project, with or without a role there: all but the work itself. */
    public static function ofOwner(Ability $ability): bool
    {
        return $ability !== Ability::Review && $ability !== Ability::Label;
    }

    /** Whether a person may do this on the installation as a whole. */
    public static function ofInstallation(Ability $ability, bool $owner, bool $mayCreate): bool
    {
        return match ($ability) {
            Ability::ManageInstallation => $owner,
            Ability::CreateProject => $owner || $mayCreate,
            default => false,
        };
    }
}
