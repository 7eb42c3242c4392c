<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\User;
use Skeno\Core\People\Role;
use Tests\TestCase;

/** A project with the people it takes to hand out, label and review. */
abstract class TeamTestCase extends TestCase
{
    protected Project $project;

    protected User $ines;

    protected User $tobias;

    protected User $mei;

    protected User $ravi;

    protected string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->base = "/projects/{$this->project->id}";
        [$this->ines, $this->tobias, $this->mei, $this->ravi] = [
            $this->member($this->project, Role::Manager, 'Ines'), $this->member($this->project, Role::Reviewer, 'Tobias'),
            $this->member($this->project, Role::Labeller, 'Mei'), $this->member($this->project, Role::Labeller, 'Ravi'),
        ];
    }
}
