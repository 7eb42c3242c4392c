<?php

declare(strict_types=1);

namespace Tests;

use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\Membership;
use App\Models\Project;
use App\Models\Turn;
use App\Models\User;
use App\Projects\Projects;
use App\Work\Stations;
use Illuminate\Contracts\Console\Kernel;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Testing\RefreshDatabase;
use Illuminate\Foundation\Testing\TestCase as Base;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Str;
use Illuminate\Testing\TestResponse;
use Imagick;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;

abstract class TestCase extends Base
{
    use RefreshDatabase;

    /** Without Mockery, artisan() must not mock its output. */
    public $mockConsoleOutput = false;

    public function createApplication(): Application
    {
        $app = require __DIR__.'/../bootstrap/app.php';
        assert($app instanceof Application);
        $app->make(Kernel::class)->bootstrap();

        return $app;
    }

    /** With the rows of a test go the uploads it has left half way. */
    protected function tearDown(): void
    {
        File::cleanDirectory(storage_path('uploads'));
        parent::tearDown();
    }

    /** Asks the API as a person (or nobody) and holds the answer against the contract. */
    protected function api(?User $as, string $method, string $path, mixed $body = null): TestResponse
    {
        // each call is a browser of its own
        $this->app['auth']->forgetGuards();
        $this->flushSession();
        if ($as !== null) {
            $this->actingAs($as->fresh(), 'web');
        }
        $response = $this->call(strtoupper($method), '/api/v1'.$path, [], [], [], ['CONTENT_TYPE' => 'application/json', 'HTTP_ACCEPT' => 'application/json'], is_string($body) ? $body : ($body === null ? null : json_encode($body)));
        $route = $this->app['router']->getCurrentRoute();
        if ($route !== null) {
            $template = (string) preg_replace('#^api/v1#', '', $route->uri());
            $content = $response->baseResponse instanceof \Symfony\Component\HttpFoundation\BinaryFileResponse ? '' : (string) $response->getContent();
            Contract::get()->assertResponse(strtolower($method), $template, $response->getStatusCode(), (string) $response->headers->get('Content-Type'), $content);
        }

        return $response;
    }

    protected function person(string $name, bool $owner = false): User
    {
        return User::query()->create(['name' => $name, 'email' => Str::slug($name).'@larkmoor.example', 'password' => 'correct horse', 'is_owner' => $owner, 'settings' => []])->refresh();
    }

    /** @param  array<string, mixed>|null  $document */
    protected function project(string $name = 'Sample', ?array $document = null): Project
    {
        return app(Projects::class)->create($name, '', '', Codebook::fromArray($document ?? Samples::document()), null);
    }

    protected function member(Project $project, Role $role, ?string $name = null): User
    {
        $user = $this->person($name ?? ucfirst($role->value).' '.User::query()->count());
        Membership::query()->create(['project_id' => $project->id, 'user_id' => $user->id, 'role' => $role]);

        return $user;
    }

    /** @return list<Item> */
    protected function items(Project $project, int $count, string $set = 'slope', int $width = 100, int $height = 80): array
    {
        $items = [];
        for ($i = 0; $i < $count; $i++) {
            $outcome = app(TakeFiles::class)->one($project, $this->picture($width, $height, "{$set}{$i}"), sprintf('%s/p%02d.png', $set, $i), false);
            $this->assertSame('taken', $outcome->state, $outcome->reason);
            $items[] = Item::query()->findOrFail($outcome->item);
        }

        return $items;
    }

    /** A made-up picture; another seed, other bytes. */
    protected function picture(int $width, int $height, string $seed, string $format = 'png'): string
    {
        $image = new Imagick;
        $image->newImage($width, $height, '#'.substr(md5($seed), 0, 6));
        $image->setImageFormat($format);
        $image->setImageProperty('comment', $seed);
        $file = $this->temporary().'/'.md5($seed).".{$format}";
        $image->writeImage($file);

        return $file;
    }

    protected function temporary(): string
    {
        $folder = storage_path('tmp/'.bin2hex(random_bytes(6)));
        mkdir($folder, 0o770, true);

        return $folder;
    }

    /** @return array<string, mixed> */
    protected function assign(Project $project, User $manager, User $labeller, ?User $reviewer, array $more = []): array
    {
        return $this->api($manager, 'post', "/projects/{$project->id}/assignments", ['labellers' => [$labeller->id], 'reviewers' => $reviewer === null ? [] : [$reviewer->id]] + $more)->assertStatus(201)->json();
    }

    /** An edit that creates a finished apple. */
    protected function create(string $mark, float $x = 10, float $y = 10, float $w = 30, float $h = 30, array $more = []): array
    {
        return ['id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'seconds' => 3, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => $x, 'y' => $y, 'width' => $w, 'height' => $h], 'answers' => ['ripeness' => ['value' => 'ripe']]] + $more];
    }

    /** The turn in which submitted work is decided on. */
    protected function decisionOf(int $work): int
    {
        $decision = Stations::decision(Turn::query()->findOrFail($work));
        self::assertNotNull($decision, 'nobody was asked to decide');

        return $decision->id;
    }

    protected function ulid(): string
    {
        return strtoupper((string) Str::ulid());
    }
}
