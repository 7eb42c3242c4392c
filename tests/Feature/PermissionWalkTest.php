<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Project;
use App\Models\User;
use Illuminate\Routing\Route;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Rights;
use Skeno\Core\People\Role;
use Tests\Contract;
use Tests\TestCase;

/** All routes × all roles × a stranger's project, against the table of rights. */
final class PermissionWalkTest extends TestCase
{
    /** @return list<Route> */
    private function routes(): array
    {
        return array_values(array_filter($this->app['router']->getRoutes()->getRoutes(), static fn (Route $route): bool => str_starts_with($route->uri(), 'api/v1')));
    }

    /** @return list<Ability> */
    private function policy(Route $route): array
    {
        foreach ($route->gatherMiddleware() as $middleware) {
            if (is_string($middleware) && str_starts_with($middleware, 'right:')) {
                return array_map(Ability::from(...), explode(',', substr($middleware, 6)));
            }
        }

        return [];
    }

    public function test_every_route_names_its_policy_and_is_in_the_contract(): void
    {
        $operations = [];
        foreach ($this->routes() as $route) {
            $name = (string) $route->getName();
            self::assertTrue($this->policy($route) !== [] || str_starts_with($name, 'public.') || str_starts_with($name, 'signed-in.'), $route->uri().' names no policy');
            if (str_starts_with($name, 'signed-in.') || $this->policy($route) !== []) {
                self::assertContains('auth:sanctum', $route->gatherMiddleware(), $route->uri());
            }
            if (str_contains($route->uri(), '{project}')) {
                self::assertNotSame([], $this->policy($route), $route->uri());
            }
            foreach (array_diff($route->methods(), ['HEAD']) as $method) {
                $operations[] = strtolower($method).' '.substr($route->uri(), 6);
            }
        }
        sort($operations);
        self::assertSame(Contract::get()->operations(), $operations);
    }

    public function test_the_walk(): void
    {
        $project = $this->project('Ours');
        $other = $this->project('Theirs');
        $people = ['nobody' => null, 'stranger' => $this->person('Stranger'), 'owner' => $this->person('Owner', true)];
        foreach (Role::cases() as $role) {
            $people[$role->value] = $this->member($project, $role);
        }
        $walked = 0;
        foreach ($this->routes() as $route) {
            $policy = $this->policy($route);
            if ($policy === []) {
                continue;
            }
            foreach (array_diff($route->methods(), ['HEAD']) as $method) {
                foreach ($people as $who => $user) {
                    foreach (str_contains($route->uri(), '{project}') ? [$project, $other] : [null] as $where) {
                        $expected = $this->expected($who, $user, $policy, $where, $project);
                        $status = $this->api($user, strtolower($method), $this->path($route, $where), $method === 'GET' ? null : [])->getStatusCode();
                        $label = "{$method} {$route->uri()} as {$who} in ".($where->name ?? 'no project').": {$status}";
                        match ($expected) {
                            'in' => self::assertNotContains($status, [401, 403, 500], $label),
                            'forbidden' => self::assertSame(403, $status, $label),
                            'hidden' => self::assertSame(404, $status, $label),
                            default => self::assertSame(401, $status, $label),
                        };
                        $walked++;
                    }
                }
            }
        }
        self::assertGreaterThan(600, $walked);
    }

    /** @param  list<Ability>  $policy */
    private function expected(string $who, ?User $user, array $policy, ?Project $where, Project $ours): string
    {
        if ($user === null) {
            return 'signed out';
        }
        $role = Role::tryFrom($who);
        if ($where !== null && $who !== 'owner' && ($where->id !== $ours->id || $role === null)) {
            return 'hidden';
        }
        foreach ($policy as $ability) {
            if (($ability->isOfInstallation() && Rights::ofInstallation($ability, $user->is_owner, $user->can_create))
                || ($who === 'owner' && ! $ability->isOfInstallation() && Rights::ofOwner($ability))
                || ($role !== null && $where !== null && Rights::ofRole($role, $ability))) {
                return 'in';
            }
        }

        return 'forbidden';
    }

    private function path(Route $route, ?Project $project): string
    {
        return substr((string) preg_replace(['/\{project\}/', '/\{\w+\}/'], [(string) ($project->id ?? 0), '999999'], $route->uri()), 6);
    }

    public function test_a_labeller_sees_only_pictures_and_turns_that_concern_them(): void
    {
        $project = $this->project();
        [$manager, $mei, $ravi, $guest] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller), $this->member($project, Role::Labeller), $this->member($project, Role::Guest)];
        [$item] = $this->items($project, 1);
        $this->assign($project, $manager, $mei, null);
        $packet = $this->api($mei, 'post', "/projects/{$project->id}/next", [])->assertOk()->json('packet');
        $picture = "/projects/{$project->id}/items/{$item->id}/picture";
        $this->api($mei, 'get', $picture)->assertOk();
        $this->api($ravi, 'get', $picture)->assertNotFound();
        $this->api($guest, 'get', $picture)->assertOk();
        $this->api($ravi, 'get', "/projects/{$project->id}/turns/{$packet['turn']['id']}")->assertNotFound();
        $this->api($ravi, 'post', "/projects/{$project->id}/turns/{$packet['turn']['id']}/edits", ['edits' => []])->assertNotFound();
        $this->api($mei, 'get', "/projects/{$project->id}/items")->assertForbidden();
    }

    public function test_a_turn_of_another_project_does_not_exist(): void
    {
        [$ours, $theirs] = [$this->project('Ours'), $this->project('Theirs')];
        $manager = $this->member($ours, Role::Manager);
        [$boss, $mei] = [$this->member($theirs, Role::Manager), $this->member($theirs, Role::Labeller)];
        $this->items($theirs, 1);
        $this->assign($theirs, $boss, $mei, null);
        $turn = $this->api($mei, 'post', "/projects/{$theirs->id}/next", [])->json('packet.turn.id');
        $this->api($manager, 'get', "/projects/{$ours->id}/turns/{$turn}")->assertNotFound();
        $this->api($manager, 'post', "/projects/{$ours->id}/turns/{$turn}/decision", ['decision' => 'accept'])->assertNotFound();
    }
}
