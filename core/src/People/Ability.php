<?php

declare(strict_types=1);

namespace Skeno\Core\People;

/** What a right is about. Abilities of the installation come first, those of a project after. */
enum Ability: string
{
    case ManageInstallation = 'installation.manage';
    case CreateProject = 'project.create';

    case SeeProject = 'project.see';
    case ManageProject = 'project.manage';
    case SeeItems = 'items.see';
    case SeeFigures = 'figures.see';
    case Review = 'review';
    case Label = 'label';

    public function isOfInstallation(): bool
    {
        return $this === self::ManageInstallation || $this === self::CreateProject;
    }
}
