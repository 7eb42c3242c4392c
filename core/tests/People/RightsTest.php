<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\People;

use PHPUnit\Framework\TestCase;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Rights;
use Skeno\Core\People\Role;

final class RightsTest extends TestCase
{
    /** The table of rights, written out once more by hand. */
    public function test_the_table(): void
    {
        $table = [
            'project.see' => 'manager reviewer labeller guest',
            'project.manage' => 'manager',
            'items.see' => 'manager reviewer guest',
            'figures.see' => 'manager reviewer',
            'review' => 'manager reviewer',
            'label' => 'manager reviewer labeller',
        ];
        foreach ($table as $ability => $roles) {
            foreach (Role::cases() as $role) {
                self::assertSame(in_array($role->value, explode(' ', $roles), true), Rights::ofRole($role, Ability::from($ability)), "{$role->value}: {$ability}");
            }
        }
    }

    public function test_no_role_in_a_project_gives_rights_over_the_installation(): void
    {
        foreach (Role::cases() as $role) {
            self::assertFalse(Rights::ofRole($role, Ability::ManageInstallation));
            self::assertFalse(Rights::ofRole($role, Ability::CreateProject));
        }
        self::assertTrue(Rights::ofInstallation(Ability::CreateProject, false, true));
        self::assertFalse(Rights::ofInstallation(Ability::ManageInstallation, false, true));
        self::assertTrue(Rights::ofInstallation(Ability::ManageInstallation, true, false));
    }

    public function test_the_owner_manages_but_does_not_do_the_work_without_a_role(): void
    {
        self::assertTrue(Rights::ofOwner(Ability::ManageProject));
        self::assertFalse(Rights::ofOwner(Ability::Review));
        self::assertFalse(Rights::ofOwner(Ability::Label));
    }
}
