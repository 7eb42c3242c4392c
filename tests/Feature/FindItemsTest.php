<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\FindItems;
use App\Models\Item;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

/** Stacked filters over items, held against going through them one by one. */
final class FindItemsTest extends TestCase
{
    private Project $project;

    private User $manager;

    /** @var array<int, array<string, mixed>> what is known of each item, by id */
    private array $truth = [];

    protected function setUp(): void
    {
        parent::setUp();
        $document = Samples::document();
        $document['attributes'][] = ['key' => 'usable', 'name' => 'Usable', 'type' => 'yesno', 'scope' => 'item', 'no_value' => ['unsure']];
        $document['tags'] = [['key' => 'wet', 'name' => 'Wet'], ['key' => 'wet_leaves', 'name' => 'Wet leaves']];
        $this->project = $this->project(document: $document);
        $this->manager = $this->member($this->project, Role::Manager);
    }

    /** Forty items of all kinds, by a seed; rows as the API would have left them. */
    private function fill(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(hash('sha256', 'find', true)));
        $one = static fn (array $of): mixed => $of[$random->getInt(0, count($of) - 1)];
        $asset = $this->items($this->project, 1, 'nowhere')[0];
        $sets = [];
        foreach (['', 'old wall', 'slope'] as $path) {
            $sets[$path] = DB::table('sets')->insertGetId(['project_id' => $this->project->id, 'path' => $path]);
        }
        for ($i = 0; $i < 40; $i++) {
            $set = $one(array_keys($sets));
            $path = ($set === '' ? '' : "{$set}/").sprintf('%s_%02d%%.png', $one(['Row', 'bay']), $i);
            $state = $one(['new', 'waiting', 'submitted', 'accepted', 'archived']);
            $marks = [];
            for ($m = $random->getInt(-2, 3); $m > 0; $m--) {
                $marks[] = [$one(['apple', 'scab']), $one([[], ['ripeness' => ['value' => 'ripe']], ['ripeness' => ['no_value' => 'unsure'], 'damage' => ['value' => ['bird', 'crack']]], ['damage' => ['value' => ['crack']], 'crack_length' => ['value' => 7], 'shaded' => ['value' => false]]])];
            }
            $said = $one([null, ['answers' => [], 'tags' => ['wet_leaves']], ['answers' => ['usable' => ['value' => true]], 'tags' => ['wet']], ['answers' => ['usable' => ['value' => false]], 'tags' => []]]);
            $row = ['project_id' => $this->project->id, 'set_id' => $sets[$set], 'asset_id' => $asset->asset_id, 'path' => $path, 'state' => $state, 'nothing' => $marks === [] && $one([true, false]), 'mark_count' => count($marks), 'part' => $one([null, 'train', 'test']), 'archived_at' => $state === 'archived' ? now() : null, 'updated_at' => now()->subMinutes($random->getInt(0, 9999))];
            $id = DB::table('items')->insertGetId($row);
            $layer = DB::table('layers')->insertGetId(['project_id' => $this->project->id, 'item_id' => $id, 'kind' => 'agreed', 'name' => 'agreed']);
            $this->truth[$id] = ['set' => $set, 'marks' => $marks, 'said' => $said] + $row;
            $mark = fn (array $more): array => $more + ['project_id' => $this->project->id, 'item_id' => $id, 'layer_id' => $layer, 'layer' => LayerKind::Agreed, 'geometry' => '{}', 'revision' => 1, 'created_at' => now(), 'updated_at' => now()];
            foreach ($marks as [$class, $answers]) {
                DB::table('marks')->insert($mark(['id' => $this->ulid(), 'class' => $class, 'kind' => 'box', 'answers' => json_encode((object) $answers)]));
            }
            // neither deleted marks nor suggestions count
            DB::table('marks')->insert($mark(['id' => $this->ulid(), 'class' => 'blurred', 'kind' => 'box', 'deleted_at' => now()]));
            DB::table('marks')->insert(['layer' => 'suggestion'] + $mark(['id' => $this->ulid(), 'class' => 'blurred', 'kind' => 'box']));
            if ($said !== null) {
                DB::table('layers')->where('id', $layer)->update(['answers' => json_encode((object) $said['answers']), 'tags' => json_encode($said['tags'])]);
            }
        }
        DB::table('items')->where('id', $asset->id)->delete();
    }

    /** @param  array<string, mixed>  $item */
    private static function holds(array $item, string $condition): bool
    {
        [$kind, $value] = explode(':', $condition, 2);
        $said = $item['said']['answers']['usable']['value'] ?? null;
        $any = static fn (callable $test): bool => array_filter($item['marks'], $test) !== [];

        return match ($condition) {
            'answer:usable=open' => $said === null,
            'answer:usable=yes' => $said === true,
            'answer:usable=no' => $said === false,
            'answer:ripeness=open' => $any(static fn (array $m): bool => $m[0] === 'apple' && ! isset($m[1]['ripeness'])),
            'answer:ripeness=no:unsure' => $any(static fn (array $m): bool => $m[0] === 'apple' && isset($m[1]['ripeness']['no_value'])),
            'answer:damage=crack' => $any(static fn (array $m): bool => $m[0] === 'apple' && in_array('crack', $m[1]['damage']['value'] ?? [], true)),
            'answer:shaded=no' => $any(static fn (array $m): bool => $m[0] === 'apple' && ($m[1]['shaded']['value'] ?? null) === false),
            'answer:crack_length=open' => $any(static fn (array $m): bool => $m[0] === 'apple' && in_array('crack', $m[1]['damage']['value'] ?? [], true) && ! isset($m[1]['crack_length'])),
            default => match ($kind) {
                'name' => stripos($item['path'], $value) !== false,
                're' => preg_match("#{$value}#i", $item['path']) === 1,
                'state' => $item['state'] === $value,
                'set' => $item['set'] === $value,
                'part' => $item['part'] === $value,
                'tag' => in_array($value, $item['said']['tags'] ?? [], true),
                'class' => $any(static fn (array $m): bool => $m[0] === $value),
                default => ($item['mark_count'] > 0 ? 'objects' : ($item['nothing'] ? 'nothing' : 'unlabelled')) === $value,
            },
        };
    }

    public function test_every_condition_and_many_stacks_find_what_going_through_finds(): void
    {
        $this->fill();
        $conditions = ['name:row_1', 'name:_', 'name:%', 're:row_[0-2]', 're:^slope/', 'state:accepted', 'state:new', 'state:archived', 'set:', 'set:slope', 'part:train', 'tag:wet', 'tag:wet_leaves', 'class:apple', 'class:blurred', 'labelled:objects', 'labelled:nothing', 'labelled:unlabelled',
            'answer:usable=open', 'answer:usable=yes', 'answer:usable=no', 'answer:ripeness=open', 'answer:ripeness=no:unsure', 'answer:damage=crack', 'answer:shaded=no', 'answer:crack_length=open'];
        $random = new Randomizer(new Xoshiro256StarStar(hash('sha256', 'stacks', true)));
        $stacks = [...array_map(static fn (string $c): array => [$c], $conditions), ...array_map(static fn (string $c): array => ["-{$c}"], $conditions)];
        for ($i = 0; $i < 60; $i++) {
            $stacks[] = array_map(static fn (int $k): string => ($random->getInt(0, 3) === 0 ? '-' : '').$conditions[$k], (array) $random->pickArrayKeys($conditions, $random->getInt(2, 4)));
        }
        $hits = 0;
        foreach ($stacks as $stack) {
            $left = array_filter($this->truth, static fn (array $item): bool => $item['archived_at'] === null || in_array('state:archived', $stack, true));
            $steps = [];
            foreach ($stack as $condition) {
                $not = str_starts_with($condition, '-');
                $left = array_filter($left, static fn (array $item): bool => self::holds($item, ltrim($condition, '-')) !== $not);
                $steps[] = ['f' => $condition, 'found' => count($left)];
            }
            $found = app(FindItems::class)($this->project, $stack);
            self::assertSame($steps, $found->steps, implode(' ', $stack));
            self::assertEqualsCanonicalizing(array_keys($left), $found->ids(), implode(' ', $stack));
            $hits += count($left) > 0 ? 1 : 0;
        }
        self::assertGreaterThan(60, $hits, 'the stacks are not all empty');
    }

    /** @return array<string, array{string}> */
    public static function sorts(): array
    {
        return ['name' => ['name'], 'state' => ['state'], 'marks' => ['marks'], 'time' => ['time']];
    }

    #[DataProvider('sorts')]
    public function test_they_come_in_the_order_asked_for(string $sort): void
    {
        $this->fill();
        $key = static fn (array $item): mixed => match ($sort) {
            'name' => $item['path'], 'state' => $item['state'], 'marks' => $item['mark_count'], 'time' => (string) $item['updated_at']
        };
        foreach (['asc' => 1, 'desc' => -1] as $order => $sign) {
            $present = array_filter($this->truth, static fn (array $item): bool => $item['archived_at'] === null);
            uasort($present, static fn (array $a, array $b): int => [$sign * ($key($a) <=> $key($b)), $a['path']] <=> [0, $b['path']]);
            self::assertSame(array_keys($present), app(FindItems::class)($this->project, [], $sort, $order)->ids());
        }
    }

    public function test_the_map_has_every_item_with_its_state_and_whether_it_is_left(): void
    {
        $this->fill();
        $map = $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/map?f[]=class:apple")->assertOk()->json();
        self::assertSame(['', 'old wall', 'slope'], array_column($map['sets'], 'path'));
        $seen = 0;
        foreach ($map['sets'] as $set) {
            foreach ($set['items'] as $i => $id) {
                self::assertSame($this->truth[$id]['state'][0], $set['states'][$i]);
                self::assertSame(self::holds($this->truth[$id], 'class:apple') ? '1' : '0', $set['left'][$i]);
                $seen++;
            }
        }
        self::assertSame($map['all'], $seen);
        self::assertSame($map['steps'][0]['found'], $map['total']);
        $list = $this->api($this->manager, 'get', "/projects/{$this->project->id}/items?f[]=class:apple&f[]=-state:new&sort=marks&order=desc")->assertOk()->json();
        self::assertSame($list['total'], count($list['data']));
        self::assertCount(2, $list['steps']);
        foreach (['f[]=colour:red', 'f[]=set:moon', 'f[]=re:(', 'sort=beauty', 'order=up', 'offset=-3', 'f[a][]=x', http_build_query(['f' => array_fill(0, 21, 'state:new')])] as $bad) {
            self::assertSame(422, $this->api($this->manager, 'get', "/projects/{$this->project->id}/items?{$bad}")->status(), $bad);
        }
        $item = Item::query()->firstOrFail();
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/items/{$item->id}")->assertOk()->assertJson(['turn' => null]);
    }

    public function test_facts_from_a_table_beside_the_pictures_are_kept_and_found(): void
    {
        $items = $this->items($this->project, 3);
        $path = "/projects/{$this->project->id}";
        $send = fn (string $csv, ?User $as = null) => $this->api($as ?? $this->manager, 'post', "{$path}/items/facts", $csv);
        $report = $send("file,weather,height m\np00.png,rain,2.5\nslope/p01.png,sun,10\nnowhere.png,rain,1\n")->assertOk()->json();
        self::assertSame([2, ['weather', 'height m'], 1], [$report['taken'], $report['facts'], $report['skipped_count']]);
        self::assertSame(4, $report['skipped'][0]['line']);
        $send("file,weather\np01.png,fog\np02.png,\n")->assertOk();
        $this->api($this->manager, 'get', "{$path}/items/{$items[1]->id}")->assertJson(['facts' => ['weather' => 'fog', 'height m' => '10']]);
        $names = fn (string $f): array => array_column($this->api($this->manager, 'get', "{$path}/items?".http_build_query(['f' => [$f]]))->assertOk()->json('data'), 'name');
        self::assertSame(['p00.png'], $names('fact:weather=rain'));
        self::assertSame(['p01.png'], $names('fact:height m>=3'), 'as a number, not as text');
        self::assertSame(['p00.png'], $names('fact:height m<=3'), 'without a height there is none to compare');
        self::assertSame(['p01.png', 'p02.png'], $names('-fact:weather=rain'));
        self::assertSame([], $names('fact:mood=good'));
        // all of a table, or nothing; and only by who manages
        $send("file,weather\np02.png,snow\n", $this->member($this->project, Role::Reviewer))->assertStatus(403);
        foreach (['', "row\n1", "file,a=b\np02.png,1"] as $bad) {
            $send($bad === '' ? ' ' : $bad)->assertStatus(422)->assertJson(['field' => 'facts']);
        }
        self::assertSame([], Item::query()->findOrFail($items[2]->id)->facts);
        $file = $this->temporary().'/facts.csv';
        file_put_contents($file, "file,weather\np02.png,snow\nlost.png,snow\n");
        self::assertSame(1, $this->artisan('skeno:facts', ['project' => 'Sample', 'file' => $file]), 'one line fits no picture');
        self::assertSame(['p02.png'], $names('fact:weather=snow'));
    }
}
