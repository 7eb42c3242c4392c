<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

/** Shapes other than boxes, and what is said of the picture, over HTTP and through the commands. */
final class ShapesTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    private int $turn;

    private string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Shapes', Samples::shapes()->toArray());
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->items($this->project, 2);
        $this->assign($this->project, $this->ines, $this->mei, null);
        $this->base = "/projects/{$this->project->id}";
        $this->turn = $this->api($this->mei, 'post', "{$this->base}/next", [])->json('packet.turn.id');
    }

    /**
     * @param  array<string, mixed>  $data
     * @return array<string, mixed>
     */
    private function send(?string $mark, string $action, int $base, array $data): array
    {
        return $this->api($this->mei, 'post', "{$this->base}/turns/{$this->turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => $action, 'mark' => $mark, 'base' => $base, 'data' => $data]]])->assertOk()->json('results.0');
    }

    /** @return array<string, array{class: string, kind: string, geometry: array<string, mixed>}> */
    private static function everyShape(): array
    {
        return [
            'polygon' => ['class' => 'leaf', 'kind' => 'polygon', 'geometry' => ['rings' => [[10.01, 10.02, 50.33, 12.5, 40.75, 44.44], [60, 10, 70, 10, 65, 20]]]],
            'mask' => ['class' => 'scab', 'kind' => 'mask', 'geometry' => ['size' => [80, 100], 'counts' => \Skeno\Core\Raster\ScanConversion::mask([[20, 20, 60, 25, 30, 60]], 100, 80)->toArray()['counts']]],
            'polyline' => ['class' => 'branch', 'kind' => 'polyline', 'geometry' => ['points' => [1.25, 2, 30, 40, 99, 79]]],
            'ellipse' => ['class' => 'apple', 'kind' => 'ellipse', 'geometry' => ['cx' => 50, 'cy' => 40, 'rx' => 12.5, 'ry' => 8, 'angle' => 30]],
            'turned_box' => ['class' => 'trunk', 'kind' => 'turned_box', 'geometry' => ['cx' => 50, 'cy' => 40, 'width' => 30, 'height' => 10, 'angle' => 15.5]],
            'points' => ['class' => 'bud', 'kind' => 'points', 'geometry' => ['points' => [1, 1, 2, 2, 3.5, 3]]],
            'skeleton' => ['class' => 'moth', 'kind' => 'skeleton', 'geometry' => ['nodes' => ['head' => ['x' => 10.5, 'y' => 20, 'state' => 'visible'], 'fore_r' => ['x' => 30, 'y' => 20.125, 'state' => 'hidden']]]],
            'cuboid_2d' => ['class' => 'crate', 'kind' => 'cuboid_2d', 'geometry' => ['front' => ['x' => 1, 'y' => 1, 'width' => 30, 'height' => 30], 'back' => ['x' => 10, 'y' => 5, 'width' => 20, 'height' => 20]]],
        ];
    }

    public function test_every_shape_is_kept_as_it_was_drawn_and_released_exactly(): void
    {
        foreach (self::everyShape() as $kind => $data) {
            $result = $this->send($this->ulid(), 'create', 0, $data);
            self::assertSame('applied', $result['outcome'], $kind.': '.($result['reason'] ?? ''));
            self::assertEquals($data['geometry'], $result['mark']['geometry']);
        }
        $packet = $this->api($this->mei, 'get', "{$this->base}/turns/{$this->turn}")->assertOk()->json();
        self::assertCount(8, $packet['marks']);
        self::assertSame(8, Item::query()->findOrFail($packet['item']['id'])->mark_count);
        // the required answer about the picture stops a submit, and opens it once given
        $this->api($this->mei, 'post', "{$this->base}/turns/{$this->turn}/submit", [])->assertStatus(422)->assertJsonPath('findings.0.code', 'answer_missing')->assertJsonPath('findings.0.mark', null);
        $said = $this->send(null, 'create', 0, ['kind' => 'item', 'answers' => ['usable' => ['value' => true]], 'tags' => ['wet']]);
        self::assertSame(['applied', null, ['wet'], 1], [$said['outcome'], $said['mark'], $said['said']['tags'], $said['said']['revision']]);
        $this->api($this->mei, 'post', "{$this->base}/turns/{$this->turn}/submit", [])->assertOk();

        $out = $this->temporary().'/set';
        Artisan::call('skeno:release', ['project' => 'Shapes', '--format' => 'skeno', '--out' => $out, '--states' => 'any', '--no-pictures' => true, '--json' => true]);
        $item = json_decode((string) file_get_contents("{$out}/dataset.json"), true)['items'][0];
        self::assertSame([['usable' => ['value' => true]], ['wet']], [$item['answers'], $item['tags']]);
        foreach ($item['marks'] as $mark) {
            self::assertEquals(self::everyShape()[$mark['kind']]['geometry'], $mark['geometry']);
        }
    }

    /** @return iterable<string, array{array<string, mixed>, string}> */
    public static function hostile(): iterable
    {
        yield 'a mask of another size' => [['class' => 'scab', 'kind' => 'mask', 'geometry' => ['size' => [8, 10], 'counts' => [80]]], 'data.geometry.size is "10 × 8"'];
        yield 'run lengths that overflow' => [['class' => 'scab', 'kind' => 'mask', 'geometry' => ['size' => [80, 100], 'counts' => [7000, PHP_INT_MAX, 5]]], 'data.geometry.counts[1]'];
        yield 'a bow tie' => [['class' => 'leaf', 'kind' => 'polygon', 'geometry' => ['rings' => [[0, 0, 10, 10, 10, 0, 0, 10]]]], 'crosses itself near 5.0, 5.0'];
        yield '100,000 points' => [['class' => 'leaf', 'kind' => 'polygon', 'geometry' => ['rings' => [array_fill(0, 200_000, 1)]]], '100000 points'];
        yield 'a node outside' => [['class' => 'moth', 'kind' => 'skeleton', 'geometry' => ['nodes' => ['head' => ['x' => 500, 'y' => 1, 'state' => 'visible']]]], 'a point outside the picture'];
        yield 'a node of another animal' => [['class' => 'moth', 'kind' => 'skeleton', 'geometry' => ['nodes' => ['beak' => ['x' => 5, 'y' => 1, 'state' => 'visible']]]], 'data.geometry.nodes.beak'];
        yield 'text for a number' => [['class' => 'branch', 'kind' => 'polyline', 'geometry' => ['points' => ['NaN', 1, 2, 3]]], 'data.geometry.points[0]'];
        yield 'a flag nobody knows' => [['class' => 'crate', 'kind' => 'cuboid_2d', 'geometry' => ['front' => ['x' => 1, 'y' => 1, 'width' => 1, 'height' => 1], 'back' => ['x' => 1, 'y' => 1, 'width' => 1, 'height' => 1]], 'flags' => ['x']], 'data.flags[0]'];
    }

    /** @param  array<string, mixed>  $data */
    #[DataProvider('hostile')]
    public function test_what_is_no_shape_is_refused_by_name_and_nothing_stored(array $data, string $words): void
    {
        $result = $this->send($this->ulid(), 'create', 0, $data);
        self::assertSame('refused', $result['outcome']);
        self::assertStringContainsString($words, $result['reason']);
        self::assertSame([0, 0], [MarkRow::query()->count(), DB::table('mark_history')->count()]);
    }

    public function test_an_edit_that_would_break_a_mark_leaves_it_as_it_was(): void
    {
        $mark = $this->ulid();
        $this->send($mark, 'create', 0, self::everyShape()['polygon']);
        $result = $this->send($mark, 'change', 1, ['geometry' => ['rings' => [[0, 0, 10, 10, 10, 0, 0, 10]]]]);
        self::assertSame('refused', $result['outcome']);
        self::assertEquals([1, self::everyShape()['polygon']['geometry']], [MarkRow::query()->findOrFail($mark)->revision, MarkRow::query()->findOrFail($mark)->geometry]);
    }

    /** Two windows on one item make one record, and the second hears of the first. */
    public function test_what_is_said_of_a_picture_has_one_record_and_conflicts_are_seen(): void
    {
        self::assertSame(0, $this->api($this->mei, 'get', "{$this->base}/turns/{$this->turn}")->json('said.revision'));
        self::assertSame('applied', $this->send(null, 'create', 0, ['kind' => 'item', 'tags' => ['wet']])['outcome']);
        $second = $this->send(null, 'create', 0, ['kind' => 'item', 'tags' => ['backlit']]);
        self::assertSame(['conflict', ['wet']], [$second['outcome'], $second['said']['tags']]);
        self::assertSame('applied', $this->send(null, 'answer', 1, ['kind' => 'item', 'attribute' => 'usable', 'answer' => ['value' => false]])['outcome']);
        self::assertEquals(['answers' => ['usable' => ['value' => false]], 'tags' => ['wet']], Layer::query()->where('revision', 2)->sole()->said()->toArray());
        self::assertSame(0, Item::query()->firstOrFail()->mark_count, 'it is no object');
    }

    public function test_shapes_are_worked_out_without_storing_anything(): void
    {
        $compute = fn (array $body) => $this->api($this->mei, 'post', "{$this->base}/turns/{$this->turn}/compute", $body);
        $mask = $compute(['op' => 'fill'] + array_diff_key(self::everyShape()['polygon'], ['class' => 1]))->assertOk()->json();
        self::assertSame('mask', $mask['kind']);
        $outline = $compute(['op' => 'outline', 'kind' => 'mask', 'geometry' => $mask['geometry'], 'n' => 0])->assertOk()->json();
        self::assertCount(2, $outline['geometry']['rings']);
        self::assertSame(0, $compute(['op' => 'mend', 'kind' => 'mask', 'geometry' => $mask['geometry'], 'n' => 1])->assertOk()->json('changed'));
        self::assertSame('unclear', $compute(['op' => 'tight', 'kind' => 'box', 'class' => 'apple', 'geometry' => ['x' => 10, 'y' => 10, 'width' => 30, 'height' => 30]])->assertOk()->json('air.left.verdict'), 'the made-up picture is of one colour');
        $compute(['op' => 'melt', 'kind' => 'mask', 'geometry' => $mask['geometry']])->assertStatus(422)->assertJsonPath('field', 'op');
        self::assertSame(0, MarkRow::query()->count());
    }

    /** Every format leaves and comes back by the commands: what it holds, onto the same pictures of another project. */
    public function test_releases_of_every_format_come_back(): void
    {
        foreach (self::everyShape() as $data) {
            $this->send($this->ulid(), 'create', 0, $data);
        }
        $this->send(null, 'create', 0, ['kind' => 'item', 'answers' => ['usable' => ['value' => true]], 'tags' => ['wet']]);
        $holds = ['coco' => 6, 'coco-panoptic' => 4, 'voc' => 4, 'yolo' => 4, 'yolo-turned' => 1, 'yolo-segments' => 4, 'yolo-pose' => 1, 'masks' => 4, 'csv' => 8, 'skeno' => 8];
        foreach ($holds as $format => $count) {
            $out = $this->temporary().'/set';
            Artisan::call('skeno:release', ['project' => 'Shapes', '--format' => $format, '--out' => $out, '--states' => 'any', '--no-pictures' => true, '--json' => true]);
            $said = Artisan::output();
            self::assertSame($count, json_decode($said, true)['compared']['marks'] ?? null, $format.$said);
            $back = $this->project("back {$format}", Samples::shapes()->toArray());
            $this->items($back, 2);
            Artisan::call('skeno:import', ['project' => "back {$format}", 'path' => $this->pictures(), '--format' => $format, '--labels' => $out, '--json' => true]);
            self::assertSame($count, MarkRow::query()->where('project_id', $back->id)->count(), $format.Artisan::output());
        }
        $said = Layer::query()->where('source', 'import')->orderBy('project_id')->get();
        self::assertCount(3, $said, 'COCO, CSV and Skeno JSON say what holds for the picture');
        foreach ($said as $row) {
            self::assertEquals(['answers' => ['usable' => ['value' => true]], 'tags' => ['wet']], $row->said()->toArray());
        }
    }

    /** The pictures that are there already, as a folder. */
    private function pictures(): string
    {
        $folder = $this->temporary();
        mkdir("{$folder}/slope");
        foreach ([0, 1] as $i) {
            rename($this->picture(100, 80, "slope{$i}"), sprintf('%s/slope/p%02d.png', $folder, $i));
        }

        return $folder;
    }
}
