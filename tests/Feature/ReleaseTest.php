<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Edition;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Release;
use App\Models\User;
use App\Releases\FreezeRelease;
use App\Releases\WriteEdition;
use Illuminate\Support\Facades\Artisan;
use Skeno\Core\People\Role;
use Tests\TestCase;
use ZipArchive;

final class ReleaseTest extends TestCase
{
    public function test_yolo_is_written_in_either_layout(): void
    {
        $project = $this->project('Layouts');
        $manager = $this->member($project, Role::Manager);
        $this->items($project, 1);
        $release = $this->api($manager, 'post', "/projects/{$project->id}/releases", ['recipe' => ['states' => 'any', 'with_unlabelled' => true]])->json('number');
        $path = "/projects/{$project->id}/releases/{$release}/editions";
        $folders = $this->api($manager, 'post', $path, ['format' => 'yolo', 'layout' => 'folders'])->assertStatus(202)->assertJson(['layout' => '']);
        $together = $this->api($manager, 'post', $path, ['format' => 'yolo', 'layout' => 'together'])->assertJson(['layout' => 'together']);
        $written = array_column($this->api($manager, 'get', "/projects/{$project->id}/releases/{$release}")->json('editions'), null, 'id');
        self::assertSame(['done', 'done'], [$written[$folders->json('id')]['state'], $written[$together->json('id')]['state']]);
        self::assertNotSame($written[$folders->json('id')]['sha256'], $written[$together->json('id')]['sha256']);
        $this->api($manager, 'post', $path, ['format' => 'coco', 'layout' => 'together'])->assertStatus(422)->assertJson(['field' => 'layout']);
        $this->api($manager, 'post', $path, ['format' => 'yolo', 'layout' => 'heap'])->assertStatus(422);
        self::assertStringContainsString('together', (string) $this->api($manager, 'get', "{$path}/{$together->json('id')}/download")->headers->get('Content-Disposition'));
        $out = $this->temporary().'/older';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => $project->name, '--number' => (string) $release, '--format' => 'yolo', '--layout' => 'together', '--out' => $out]));
        self::assertFileExists("{$out}/classes.names");
        self::assertFileExists("{$out}/data/slope/p00.png");
        self::assertSame(2, Artisan::call('skeno:release', ['project' => $project->name, '--number' => (string) $release, '--format' => 'coco', '--layout' => 'together', '--out' => "{$out}2"]));
    }

    private Project $project;

    private User $ines;

    private User $mei;

    private string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->base = "/projects/{$this->project->id}";
        [$this->ines, $this->mei] = [$this->member($this->project, Role::Manager, 'Ines'), $this->member($this->project, Role::Labeller, 'Mei')];
        $this->items($this->project, 3);
        $this->assign($this->project, $this->ines, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "{$this->base}/next", [])->json('packet.turn.id');
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid(), 10.25, 20.5, 30, 40)]])->assertOk();
        $this->api($this->mei, 'post', "{$this->base}/turns/{$turn}/submit", [])->assertOk();
    }

    public function test_a_release_is_frozen_and_written_in_any_format(): void
    {
        $this->api($this->ines, 'post', "{$this->base}/releases/preview", ['recipe' => (object) []])->assertJson(['items' => ['objects' => 1, 'nothing' => 0, 'unlabelled' => 0], 'marks' => 1, 'classes' => ['apple' => 1]]);
        $this->api($this->ines, 'post', "{$this->base}/releases/preview", ['recipe' => ['with_unlabelled' => true, 'split' => ['train' => 100, 'val' => 0, 'test' => 0, 'seed' => 1]]])->assertJson(['items' => ['unlabelled' => 2], 'split' => ['train' => 3]]);
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => ['names' => true], 'note' => 'first'])->assertStatus(201);
        $release = $this->api($this->ines, 'get', "{$this->base}/releases/1")->assertJson(['state' => 'done', 'number' => 1])->json();
        MarkRow::query()->sole()->update(['geometry' => ['x' => 0, 'y' => 0, 'width' => 1, 'height' => 1]]);
        foreach (['coco', 'voc', 'yolo', 'skeno'] as $format) {
            $edition = $this->api($this->ines, 'post', "{$this->base}/releases/1/editions", ['format' => $format, 'pictures' => $format === 'coco'])->assertStatus(202)->json();
        }
        $editions = $this->api($this->ines, 'get', "{$this->base}/releases/1")->json('editions');
        self::assertSame(['done', 'done', 'done', 'done'], array_column($editions, 'state'));
        $download = $this->api($this->ines, 'get', "{$this->base}/releases/1/editions/{$editions[0]['id']}/download")->assertOk();
        $file = $download->baseResponse->getFile()->getPathname();
        self::assertSame($editions[0]['sha256'], hash_file('sha256', $file));
        $zip = new ZipArchive;
        $zip->open($file);
        $coco = json_decode((string) $zip->getFromName('annotations/all.json'), true);
        self::assertSame([10.25, 20.5, 30, 40], $coco['annotations'][0]['bbox'], 'what was edited after the release is not in it');
        self::assertSame('Mei', $coco['annotations'][0]['attributes']['author']);
        self::assertNotFalse($zip->locateName('images/slope/p00.png'));
        self::assertSame($release['sha256'], Release::query()->sole()->sha256);
    }

    public function test_jobs_may_run_again(): void
    {
        $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => (object) []])->assertStatus(201);
        $release = Release::query()->sole();
        $hash = $release->sha256;
        $release->update(['state' => 'working']);
        dispatch_sync(new FreezeRelease($release->id));
        self::assertSame($hash, $release->refresh()->sha256);
        $this->api($this->ines, 'post', "{$this->base}/releases/1/editions", ['format' => 'voc'])->assertStatus(202);
        $edition = Edition::query()->sole();
        $bytes = $edition->sha256;
        $edition->update(['state' => 'working']);
        dispatch_sync(new WriteEdition($edition->id));
        self::assertSame($bytes, $edition->refresh()->sha256);
    }

    public function test_bad_recipes_are_refused(): void
    {
        foreach ([['states' => 'maybe'], ['classes' => ['pear']], ['split' => ['train' => 50, 'val' => 10, 'test' => 10, 'seed' => 1]], ['split' => 'half'], ['sets' => 'all']] as $recipe) {
            $this->api($this->ines, 'post', "{$this->base}/releases", ['recipe' => $recipe])->assertStatus(422)->assertJson(['code' => 'invalid_value']);
        }
        $this->api($this->ines, 'post', "{$this->base}/releases/9/editions", ['format' => 'coco'])->assertNotFound();
        self::assertSame(0, Release::query()->count());
    }
}
