<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\ItemStates;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Set;
use App\Models\User;
use App\Releases\Preview;
use App\Releases\Snapshots;
use Illuminate\Support\Facades\DB;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\People\Role;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Workflow\ItemState;
use Tests\TestCase;

/** What the database counts as marks come and go is what a count of them says, whatever was done and in whichever way. */
final class CountsTest extends TestCase
{
    private Project $project;

    private User $ines;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->items($this->project, 12);
        $this->items($this->project, 8, 'old wall');
    }

    /** @param  array<string, mixed>  $more */
    private function mark(Item $item, array $more = []): MarkRow
    {
        return MarkRow::query()->create($more + ['id' => $this->ulid(), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => DB::table('layers')->where('item_id', $item->id)->where('name', 'agreed')->value('id'), 'layer' => 'agreed', 'source' => 'hand', 'class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 20, 'height' => 40], 'answers' => [], 'flags' => [], 'revision' => 1]);
    }

    private function mustBeARecount(string $after): void
    {
        $size = 'case when width is null or height is null then -1 when height < 0 then 4 when min(width, height) < 16 then 0 when min(width, height) < 32 then 1 when min(width, height) < 96 then 2 else 3 end';
        $word = static fn (object $row): string => "{$row->project_id} {$row->set_id} {$row->state} {$row->class} {$row->size}: {$row->n}";
        $kept = DB::table('mark_counts')->where('marks', '!=', 0)->selectRaw('project_id, set_id, state, class, size, marks as n')->get()->map($word)->sort()->values()->all();
        $counted = DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('layer', 'agreed')->whereNull('deleted_at')->groupByRaw('1, 2, 3, 4, 5')
            ->selectRaw("items.project_id as project_id, items.set_id as set_id, items.state as state, marks.class as class, {$size} as size, count(*) as n")->get()->map($word)->sort()->values()->all();
        self::assertSame($counted, $kept, "after {$after}");
    }

    public function test_the_kept_counts_are_a_recount_after_anything(): void
    {
        $random = new Randomizer(new Mt19937(11));
        $pick = static fn (array $of): mixed => $of[$random->getInt(0, count($of) - 1)];
        $items = static fn (): array => Item::query()->orderBy('id')->get()->all();
        $marks = static fn (): array => MarkRow::query()->orderBy('id')->get()->all();
        for ($i = 0; $i < 30; $i++) {
            $this->mark($pick($items()), ['class' => $pick(['apple', 'scab', 'blurred'])]);
        }
        $this->mustBeARecount('30 marks');
        $sets = Set::query()->pluck('id')->all();
        $doings = [
            'a mark' => fn () => $this->mark($pick($items()), ['class' => $pick(['apple', 'scab'])]),
            'one beside the agreed layer' => fn () => $this->mark($pick($items()), ['layer' => 'blind']),
            'one deleted' => fn () => $pick($marks())->update(['deleted_at' => now()]),
            'one brought back' => fn () => $pick($marks())->update(['deleted_at' => null]),
            'one gone for good' => fn () => $pick($marks())->delete(),
            'another class' => fn () => $pick($marks())->update(['class' => $pick(['apple', 'scab', 'blurred'])]),
            'its extent noted' => fn () => $pick($marks())->update(['width' => $random->getInt(0, 130), 'height' => $random->getInt(-1, 130)]),
            'its extent forgotten' => fn () => $pick($marks())->update(['width' => null, 'height' => null]),
            'onto the agreed layer' => fn () => DB::table('marks')->where('layer', 'blind')->limit(1)->update(['layer' => 'agreed']),
            'all of a class renamed' => fn () => DB::table('marks')->where('class', 'blurred')->update(['class' => 'scab']),
            'another state' => fn () => $pick($items())->update(['state' => $pick(ItemState::cases())]),
            'many items archived' => fn () => ItemStates::archive($this->project, Item::query()->limit(6)->pluck('id')->all(), (bool) $random->getInt(0, 1)),
            'another set' => fn () => $pick($items())->update(['set_id' => $pick($sets)]),
            'an item gone' => fn () => Item::query()->count() > 6 && $pick($items())->delete(),
        ];
        for ($i = 0; $i < 240; $i++) {
            $what = $pick(array_keys($doings));
            $doings[$what]();
            $this->mustBeARecount("{$what} ({$i})");
        }
        $this->project->delete();
        self::assertSame(0, DB::table('mark_counts')->count());
    }

    public function test_a_preview_says_what_a_release_frozen_now_has(): void
    {
        $random = new Randomizer(new Mt19937(5));
        $states = [ItemState::Accepted, ItemState::Accepted, ItemState::Submitted, ItemState::Open, ItemState::Archived];
        foreach (Item::query()->orderBy('id')->get() as $i => $item) {
            $some = $i % 4 === 0 ? 0 : $random->getInt(1, 4);
            for ($n = 0; $n < $some; $n++) {
                [$width, $height] = [$random->getInt(2, 60), $random->getInt(2, 60)];
                $this->mark($item, ['class' => $random->getInt(0, 2) === 0 ? 'scab' : 'apple', 'geometry' => ['x' => 1, 'y' => 1, 'width' => $width, 'height' => $height]] + ($n % 2 === 0 ? ['width' => $width, 'height' => $height] : []));
            }
            $item->update(['mark_count' => $some, 'nothing' => $some === 0 && $i % 8 === 0, 'state' => $states[$i % 5], 'part' => $i === 7 ? 'test' : null]);
        }
        $codebook = $this->project->codebookVersion()->codebook();
        $split = ['train' => 50, 'val' => 30, 'test' => 20, 'seed' => 3];
        foreach ([0, 1] as $round) {
            foreach ([[], ['states' => 'any'], ['states' => 'any', 'with_unlabelled' => true], ['with_unlabelled' => true, 'split' => $split], ['states' => 'any', 'split' => $split], ['sets' => ['old wall'], 'states' => 'any'], ['classes' => ['scab'], 'states' => 'any'], ['classes' => ['scab'], 'split' => $split]] as $of) {
                $recipe = Recipe::fromArray($of, $codebook);
                $said = app(Preview::class)->of($this->project, $recipe)->toArray();
                $snapshots = app(Snapshots::class);
                $release = $snapshots->begin($this->project, null, $recipe, '');
                $snapshots->freeze($release);
                ksort($said['split']);
                $frozen = $release->census;
                ksort($frozen['split']);
                self::assertSame($frozen, $said, json_encode($of)." in round {$round}");
            }
            // the second time two pictures have the same bytes
            Item::query()->where('id', 3)->update(['asset_id' => Item::query()->findOrFail(4)->asset_id]);
        }
    }

    public function test_parts_of_an_earlier_release_are_kept_when_pictures_are_added(): void
    {
        $codebook = $this->project->codebookVersion()->codebook();
        $recipe = Recipe::fromArray(['states' => 'any', 'with_unlabelled' => true, 'split' => ['train' => 50, 'val' => 30, 'test' => 20, 'seed' => 3]], $codebook);
        $snapshots = app(Snapshots::class);
        $parts = static function () use ($snapshots, $recipe): array {
            $release = $snapshots->begin(Project::query()->sole(), null, $recipe, '');
            $snapshots->freeze($release);
            $parts = [];
            foreach (\Skeno\Core\Formats\SkenoJson\SkenoJsonReader::items(Snapshots::file($release)) as $item) {
                $parts[$item->path] = $item->part?->value;
            }

            return $parts;
        };
        $first = $parts();
        $this->items($this->project, 30, 'slope two');
        self::assertSame($first, array_intersect_key($parts(), $first));
        // also when the earlier release is of a version that had them in its snapshot alone
        DB::table('release_parts')->delete();
        $this->items($this->project, 17, 'slope three');
        self::assertSame($first, array_intersect_key($parts(), $first));
        self::assertSame(['train' => 34, 'val' => 20, 'test' => 13], array_intersect_key(app(Preview::class)->of($this->project, $recipe)->toArray()['split'], ['train' => 0, 'val' => 0, 'test' => 0]));
    }
}
