<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\AssetStore;
use App\Files\Pass;
use App\Intake\DeriveFiles;
use App\Intake\TakeFiles;
use App\Models\Item;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Queue;
use Imagick;
use Skeno\Core\People\Role;
use Tests\TestCase;
use ZipArchive;

final class PictureTest extends TestCase
{
    private function turned(int $orientation): string
    {
        $image = new Imagick;
        $image->newImage(80, 40, '#a03020');
        $image->setImageFormat('jpeg');
        $image->setImageOrientation($orientation);
        $image->profileImage('exif', "Exif\0\0II*\0".pack('V', 8).pack('v', 1).pack('vvVvv', 0x0112, 3, 1, $orientation, 0).pack('V', 0));
        $file = $this->temporary().'/turned.jpg';
        $image->writeImage($file);

        return $file;
    }

    public function test_a_picture_on_its_side_is_an_upright_item_all_the_way_to_the_release(): void
    {
        $project = $this->project('Turned');
        $ines = $this->member($project, Role::Manager);
        $outcome = app(TakeFiles::class)->one($project, $this->turned(6), 'slope/turned.jpg', false);
        $item = Item::query()->findOrFail($outcome->item);
        self::assertSame([40, 80], [$item->asset->width, $item->asset->height]);
        foreach (['thumb', 'screen', 'full'] as $size) {
            $copy = new Imagick($this->api($ines, 'get', "/projects/{$project->id}/items/{$item->id}/picture?size={$size}")->assertOk()->baseResponse->getFile()->getPathname());
            self::assertSame([40, 80], [$copy->getImageWidth(), $copy->getImageHeight()], $size);
        }
        $item->update(['state' => 'accepted', 'nothing' => true]);
        $out = $this->temporary().'/out';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => 'Turned', '--format' => 'coco', '--out' => $out, '--json' => true]));
        $report = json_decode(Artisan::output(), true);
        self::assertStringContainsString('EXIF orientation', $report['not_held_by_the_format'][0]['what']);
        self::assertSame([40, 80], array_slice(array_values(array_intersect_key(json_decode((string) file_get_contents("{$out}/annotations/all.json"), true)['images'][0], ['width' => 1, 'height' => 1])), 0, 2));
        self::assertFileEquals(app(AssetStore::class)->file($item->asset), "{$out}/images/slope/turned.jpg", 'the original bytes');
    }

    public function test_what_a_browser_cannot_show_gets_a_copy_and_what_it_can_is_sent_as_it_is(): void
    {
        $project = $this->project();
        $store = app(AssetStore::class);
        foreach (['tiff' => true, 'bmp' => true, 'png' => false, 'webp' => false] as $format => $copied) {
            $outcome = app(TakeFiles::class)->one($project, $this->picture(50, 30, "kind {$format}", $format), "a.{$format}", false);
            $asset = Item::query()->findOrFail($outcome->item)->asset;
            self::assertSame($copied, $store->derived($asset, 'full') !== $store->file($asset), $format);
        }
    }

    public function test_a_lost_copy_is_made_again(): void
    {
        $project = $this->project();
        $ines = $this->member($project, Role::Manager);
        [$item] = $this->items($project, 1);
        $file = app(AssetStore::class)->derived($item->asset, 'thumb');
        unlink($file);
        $this->api($ines, 'get', "/projects/{$project->id}/items/{$item->id}/picture?size=thumb")->assertOk();
        self::assertFileExists($file);
        $this->api($ines, 'get', "/projects/{$project->id}/items/{$item->id}/picture?size=huge")->assertStatus(422)->assertJson(['field' => 'size']);
    }

    public function test_a_large_picture_is_cut_into_tiles_by_the_worker(): void
    {
        $project = $this->project();
        $ines = $this->member($project, Role::Manager);
        $mei = $this->member($project, Role::Labeller, 'Mei');
        $outcome = app(TakeFiles::class)->one($project, $this->picture(5000, 4000, 'large', 'jpeg'), 'large.jpg', false);
        $item = Item::query()->findOrFail($outcome->item);
        $store = app(AssetStore::class);
        self::assertFalse($store->isComplete($item->asset));
        $shown = fn (): array => $this->api($ines, 'get', "/projects/{$project->id}/items/{$item->id}")->assertOk()->json('picture.tiles');
        $tile = fn (string $which, $who) => $this->api($who, 'get', "/projects/{$project->id}/items/{$item->id}/tiles/{$which}");
        self::assertSame([512, 2], [$shown()['side'], $shown()['levels']]);
        self::assertStringNotContainsString('pass=', $shown()['query']);
        // not made yet: asked for, and said
        Queue::fake();
        foreach (['0/0/0', '0/1/0', '1/0/0', '0/0/0'] as $which) {
            $tile($which, $ines)->assertStatus(409)->assertJson(['code' => 'tiles_not_made']);
        }
        Queue::assertPushed(DeriveFiles::class, 1);
        app()->call([new DeriveFiles([$item->id]), 'handle']);
        self::assertTrue($store->isComplete($item->asset->refresh()));
        $tile('0/9/7', $ines)->assertOk()->assertHeader('Content-Type', 'image/jpeg');
        $last = new Imagick($tile('0/9/7', $ines)->baseResponse->getFile()->getPathname());
        self::assertSame([5000 - 9 * 512, 4000 - 7 * 512], [$last->getImageWidth(), $last->getImageHeight()]);
        foreach (['2/0/0', '0/10/0', '0/0/8', '0/x/0', '0/-1/0'] as $wrong) {
            self::assertSame(404, $tile($wrong, $ines)->getStatusCode(), $wrong);
        }
        $tile('0/0/0', $mei)->assertStatus(404);
        $this->assign($project, $ines, $mei, null);
        $tile('0/0/0', $mei)->assertOk();
        // a pass opens all tiles of this picture, and no file beside them
        parse_str($shown()['query'], $query);
        $folder = storage_path();
        self::assertStringEndsWith('-tiles/1-2-3.jpg', (string) Pass::file($query, $folder, null, '/1-2-3.jpg'));
        self::assertNull(Pass::file($query, $folder, null, '/1-2-99.jpg'));
        self::assertNull(Pass::file($query, $folder), 'the folder itself is no file');
        $path = "/api/v1/projects/{$project->id}/items/{$item->id}/tiles";
        foreach (["{$path}/1/2", "{$path}/1/2/3/4", "{$path}/1/2/..", "{$path}/1/2/3%00"] as $elsewhere) {
            self::assertFalse(Pass::serve('GET', $elsewhere, $query, $folder), $elsewhere);
        }
        // a small one has none
        [$small] = $this->items($project, 1);
        self::assertNull($this->api($ines, 'get', "/projects/{$project->id}/items/{$small->id}")->json('picture.tiles'));
        $this->api($ines, 'get', "/projects/{$project->id}/items/{$small->id}/tiles/0/0/0")->assertStatus(404);
    }

    public function test_limits_of_the_installation_count(): void
    {
        config(['skeno.picture.max_pixels' => 1000]);
        $outcome = app(TakeFiles::class)->one($this->project(), $this->picture(50, 30, 'large'), 'a.png', false);
        self::assertSame('refused', $outcome->state);
        self::assertStringContainsString('50 × 30', $outcome->reason);
    }

    public function test_labels_in_a_zip_come_in_by_command(): void
    {
        $project = $this->project('Zipped');
        $this->items($project, 1);
        $file = $this->temporary().'/labels.zip';
        $zip = new ZipArchive;
        $zip->open($file, ZipArchive::CREATE);
        $zip->addFromString('data.yaml', "names: [Apple, Leaf scab]\n");
        $zip->addFromString('labels/slope/p00.txt', "1 0.5 0.5 0.2 0.2\n");
        $zip->addFromString('../labels/climb.txt', "1 0.5 0.5 0.2 0.2\n");
        $zip->close();
        self::assertSame(0, Artisan::call('skeno:import', ['project' => 'Zipped', 'path' => $this->temporary(), '--format' => 'yolo', '--labels' => $file, '--json' => true]));
        self::assertSame([1, 1], array_values(array_intersect_key(json_decode(Artisan::output(), true)['labels'], ['objects' => 1, 'accepted' => 1])));
        self::assertSame([], glob(storage_path('tmp/labels-*')));
    }

    /** Addresses of thumbnails carry a pass that is taken before the application starts; everything else about them stays as it was. */
    public function test_a_pass_opens_one_file_for_a_while_and_nothing_else(): void
    {
        $project = $this->project();
        $ines = $this->member($project, Role::Manager);
        [$item, $other] = $this->items($project, 2);
        $ask = fn () => $this->api($ines, 'get', "/projects/{$project->id}/items")->assertOk()->json('data.0.picture.thumb');
        @unlink(app(AssetStore::class)->derived($item->asset, 'thumb'));
        self::assertStringNotContainsString('pass=', $ask(), 'without the file the address has to make it');
        $file = app(AssetStore::class)->derived($item->asset, 'thumb');
        app(AssetStore::class)->derived($other->asset, 'thumb');
        $address = $ask();
        parse_str((string) parse_url($address, PHP_URL_QUERY), $query);
        $folder = storage_path();
        self::assertSame($file, Pass::file($query, $folder));
        $at = static fn (int $now): string => Pass::on('/picture?v=1', $query['file'], $folder, $now);
        self::assertSame([$at(7200), $at(10799)], [$at(10799), $at(7200)], 'the same address all the hour, so that browsers keep the picture');
        self::assertNotSame($at(7200), $at(10800));
        $this->api($ines, 'get', substr($address, strlen('/api/v1')))->assertOk();
        $this->api($this->person('Stranger'), 'get', substr($address, strlen('/api/v1')))->assertStatus(404);

        [$until, $mac] = explode('.', $query['pass']);
        self::assertSame($file, Pass::file($query, $folder, (int) $until - 1));
        self::assertNull(Pass::file($query, $folder, (int) $until), 'it runs out');
        $elsewhere = AssetStore::derivedPath($other->asset->sha256, 'thumb');
        foreach ([
            ['file' => $elsewhere], ['file' => '../app.key'], ['file' => "{$query['file']}/../../../../../app.key"], ['file' => [$query['file']]], ['file' => ''],
            ['pass' => ($until + 3600).".{$mac}"], ['pass' => "{$until}.".strrev($mac)], ['pass' => $until], ['pass' => ''], ['pass' => [$query['pass']]], ['pass' => $query['pass']."\n"],
        ] as $wrong) {
            self::assertNull(Pass::file($wrong + $query, $folder), json_encode($wrong));
        }
        $path = (string) parse_url($address, PHP_URL_PATH);
        self::assertFalse(Pass::serve('POST', $path, $query, $folder));
        foreach (['/', '/api/v1/session', "{$path}/more", "/x{$path}"] as $elsewhere) {
            self::assertFalse(Pass::serve('GET', $elsewhere, $query, $folder), $elsewhere);
        }
        unlink($file);
        self::assertNull(Pass::file($query, $folder));
        $this->api($ines, 'get', substr($address, strlen('/api/v1')))->assertOk();
        self::assertFileExists($file, 'made again by the application');
    }

    public function test_a_web_server_that_can_sends_the_files_itself(): void
    {
        $project = $this->project();
        $ines = $this->member($project, Role::Manager);
        [$item] = $this->items($project, 1);
        $address = "/projects/{$project->id}/items/{$item->id}/picture?size=full";
        $file = app(AssetStore::class)->file($item->asset);
        $ask = fn (array $headers = []) => $this->withHeaders($headers)->actingAs($ines->fresh(), 'web')->get("/api/v1{$address}");
        try {
            $plain = $ask(['X-Sendfile-Type' => 'X-Accel-Redirect', 'X-Accel-Mapping' => '/=/secret/'])->assertOk();
            self::assertNull($plain->headers->get('X-Accel-Redirect'), 'a client has no say in it');
            putenv('SKENO_SEND_FILE=x-accel-redirect=/skeno-files/');
            $sent = $ask(['X-Accel-Mapping' => '/=/secret/'])->assertOk();
            self::assertSame('/skeno-files/'.substr($file, strlen(storage_path()) + 1), rawurldecode((string) $sent->headers->get('X-Accel-Redirect')));
            self::assertSame('', $sent->streamedContent());
            putenv('SKENO_SEND_FILE=x-sendfile');
            self::assertSame($file, $ask()->assertOk()->headers->get('X-Sendfile'));
            putenv('SKENO_SEND_FILE=x-accel-redirect');
            $ask()->assertStatus(500);
        } finally {
            putenv('SKENO_SEND_FILE');
        }
    }
}
