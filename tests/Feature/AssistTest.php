<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Files\AssetStore;
use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use Imagick;
use ImagickDraw;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

/** What is worked out for the hand on a picture: cut-out and patches, over HTTP. */
final class AssistTest extends TestCase
{
    private Project $project;

    private User $mei;

    private int $turn;

    private Item $item;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Help', Samples::shapes()->toArray());
        $ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
        $outcome = app(TakeFiles::class)->one($this->project, $this->disc(320, 240), 'slope/disc.png', false);
        self::assertSame('taken', $outcome->state, $outcome->reason);
        $this->item = Item::query()->findOrFail($outcome->item);
        $this->assign($this->project, $ines, $this->mei, null);
        $this->turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", [])->json('packet.turn.id');
    }

    /** A red disc of 60 px round 160, 120 on green. */
    private function disc(int $width, int $height): string
    {
        $image = new Imagick;
        $image->newImage($width, $height, '#3c6e32');
        $draw = new ImagickDraw;
        $draw->setFillColor('#be2828');
        $draw->circle(160, 120, 160, 60);
        $image->drawImage($draw);
        $file = $this->temporary().'/disc.png';
        $image->writeImage("png24:{$file}");

        return $file;
    }

    private function path(string $what): string
    {
        return "/projects/{$this->project->id}/turns/{$this->turn}/{$what}";
    }

    /** @param  array<string, mixed>  $more */
    private function cut(array $more = []): \Illuminate\Testing\TestResponse
    {
        return $this->api($this->mei, 'post', $this->path('cut-out'), $more + ['box' => ['x' => 95, 'y' => 56, 'width' => 132, 'height' => 130], 'as' => 'mask']);
    }

    public function test_a_rough_box_gives_the_outline_and_stores_nothing(): void
    {
        $mask = $this->cut()->assertOk()->json();
        self::assertSame(['mask', [240, 320], []], [$mask['kind'], $mask['geometry']['size'], $mask['touches']]);
        self::assertEqualsWithDelta(M_PI * 60 * 60, $mask['area'], 250);
        $outline = $this->cut(['as' => 'polygon', 'tolerance' => 2])->assertOk()->json();
        self::assertSame('polygon', $outline['kind']);
        self::assertCount(1, $outline['geometry']['rings']);
        self::assertLessThan(80, count($outline['geometry']['rings'][0]));
        self::assertSame(0, MarkRow::query()->count());
    }

    public function test_strokes_go_on_from_what_was_kept_and_do_without_it(): void
    {
        $strokes = [['adds' => false, 'points' => [160, 100]], ['adds' => false, 'points' => [190, 130, 195, 150]]];
        $this->cut()->assertOk();
        $this->cut(['strokes' => [$strokes[0]]])->assertOk();
        $kept = storage_path("tmp/cutout-{$this->turn}-{$this->mei->id}");
        self::assertFileExists($kept);
        $on = $this->cut(['strokes' => $strokes])->assertOk()->json();
        unlink($kept);
        self::assertSame($on, $this->cut(['strokes' => $strokes])->assertOk()->json());
        // a broken file is no reason to fail, and undo takes a step back
        file_put_contents($kept, 'O:8:"stdClass":0:{}');
        self::assertSame($on, $this->cut(['strokes' => $strokes])->assertOk()->json());
        $back = $this->cut(['strokes' => [$strokes[0]]])->assertOk()->json();
        self::assertNotSame($on['geometry'], $back['geometry']);
        self::assertGreaterThanOrEqual($back['area'], $this->cut(['strokes' => [$strokes[0]], 'loose' => 2])->assertOk()->json('area'));
    }

    public function test_where_nothing_stands_out_it_says_so(): void
    {
        $even = $this->cut(['box' => ['x' => 5, 'y' => 5, 'width' => 40, 'height' => 40]])->assertOk()->json();
        self::assertTrue($even['geometry'] === null || $even['alike'] > 0.5);
    }

    public function test_what_is_made_is_a_mark_of_a_hand_with_its_source_noted(): void
    {
        $found = $this->cut()->assertOk()->json();
        $send = fn (array $edit) => $this->api($this->mei, 'post', $this->path('edits'), ['edits' => [$edit + ['id' => $this->ulid()]]]);
        $mark = $this->ulid();
        $create = ['action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => ['class' => 'scab', 'kind' => 'mask', 'geometry' => $found['geometry']]];
        $refused = $send(['source' => 'model'] + $create)->assertOk()->json('results.0');
        self::assertSame('refused', $refused['outcome']);
        self::assertStringContainsString('source', json_encode($refused, JSON_THROW_ON_ERROR));
        $made = $send(['source' => 'cutout'] + $create)->assertOk()->json('results.0.mark');
        self::assertSame(['cutout', $this->mei->id], [$made['source'], $made['author_id']]);
        // a hand that goes on with it leaves where it came from, unless it says otherwise
        self::assertSame('cutout', $send(['action' => 'change', 'mark' => $mark, 'base' => 1, 'data' => ['stack' => 2]])->assertOk()->json('results.0.mark.source'));
        self::assertSame('patches', $send(['action' => 'change', 'mark' => $mark, 'base' => 2, 'source' => 'patches', 'data' => ['geometry' => $found['geometry']]])->assertOk()->json('results.0.mark.source'));
    }

    public function test_patches_are_made_once_and_kept(): void
    {
        $ask = fn (string $query) => $this->api($this->mei, 'get', $this->path("patches?{$query}"));
        $response = $ask('side=20&x=0&y=0&width=320&height=240&step=1')->assertOk();
        self::assertSame('gzip', $response->headers->get('Content-Encoding'));
        $bytes = (string) gzdecode((string) file_get_contents($response->baseResponse->getFile()->getPathname()));
        self::assertSame(['SKP1', 320, 240, 192], [substr($bytes, 0, 4), ...array_values(unpack('V3', $bytes, 4) ?: [])]);
        $kept = glob(dirname(app(AssetStore::class)->tilesOf($this->item->asset)).'/*-patches/*.gz') ?: [];
        self::assertCount(1, $kept);
        touch($kept[0], 1000);
        $ask('side=20&x=0&y=0&width=320&height=240&step=1')->assertOk();
        clearstatcache();
        self::assertSame(1000, filemtime($kept[0]));
        // a part, reduced
        $bytes = (string) gzdecode((string) file_get_contents($ask('side=8&x=100&y=40&width=101&height=60&step=2')->assertOk()->baseResponse->getFile()->getPathname()));
        self::assertSame([51, 30], array_slice(array_values(unpack('V3', $bytes, 4) ?: []), 0, 2));
    }

    /** @param  array<string, int|string>  $with */
    #[DataProvider('wrongPatches')]
    public function test_patches_of_nothing_are_refused_by_what_is_wrong(string $field, array $with): void
    {
        $this->api($this->mei, 'get', $this->path('patches?'.http_build_query($with + ['side' => 20, 'x' => 0, 'y' => 0, 'width' => 320, 'height' => 240, 'step' => 1])))->assertStatus(422)->assertJsonPath('field', $field);
    }

    /** @return iterable<string, array{string, array<string, int|string>}> */
    public static function wrongPatches(): iterable
    {
        yield 'beside the picture' => ['x', ['x' => 320]];
        yield 'over its edge' => ['width', ['x' => 10]];
        yield 'of no size' => ['side', ['side' => 1]];
        yield 'no number' => ['step', ['step' => '1e3']];
        yield 'a number no computer has' => ['height', ['height' => '99999999999999999999']];
    }

    public function test_others_have_no_part_in_it(): void
    {
        $stranger = $this->member($this->project, Role::Labeller, 'Somebody else');
        $this->api($stranger, 'post', $this->path('cut-out'), ['box' => ['x' => 0, 'y' => 0, 'width' => 50, 'height' => 50], 'as' => 'mask'])->assertNotFound();
        $this->api($stranger, 'get', $this->path('patches?side=20&x=0&y=0&width=320&height=240&step=1'))->assertNotFound();
    }
}
