<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Intake\TakeFiles;
use App\Items\Keys;
use App\Items\Layers;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use Skeno\Core\Marks\Along;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Clip\NumberedClip;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Places;
use Tests\TestCase;

/** Tracks, their keys and what is said along clips, one by one over many clips: for the contact sheet, sweeps and filters. */
final class ClipObjectsTest extends TestCase
{
    private const FRAMES = 40;

    private Project $project;

    private User $manager;

    private Item $first;

    private Item $second;

    protected function setUp(): void
    {
        parent::setUp();
        $document = Samples::document();
        $document['attributes'][] = ['key' => 'load', 'name' => 'load', 'type' => 'one', 'scope' => 'object', 'varies' => true, 'required' => true, 'options' => [['key' => 'empty', 'name' => 'empty'], ['key' => 'full', 'name' => 'full']]];
        $document['attributes'][] = ['key' => 'light', 'name' => 'light', 'type' => 'one', 'scope' => 'frame', 'required' => true, 'options' => [['key' => 'sun', 'name' => 'sun'], ['key' => 'shade', 'name' => 'shade']]];
        $document['tags'][] = ['key' => 'blocked', 'name' => 'blocked', 'scope' => 'stretch'];
        foreach ($document['classes'] as &$class) {
            if ($class['key'] === 'apple') {
                $class['attributes'][] = 'load';
            }
        }
        unset($class);
        $this->project = $this->project(document: $document);
        $this->manager = $this->member($this->project, Role::Manager, 'Ines');
        [$this->first, $this->second] = [$this->clip('row/a.mp4', self::FRAMES), $this->clip('row/b.mp4', 20)];
    }

    private function clip(string $path, int $frames): Item
    {
        $file = $this->temporary().'/'.basename($path);
        NumberedClip::write($file, $frames, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'], false);
        $outcome = app(TakeFiles::class)->one($this->project, $file, $path, false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    /** @param  list<array<string, mixed>>  $edits */
    private function send(array $edits, ?User $as = null): array
    {
        $results = $this->api($as ?? $this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => $edits])->assertOk()->json('results');

        return array_column($results, 'outcome');
    }

    /** @param  list<array{int, int}>  $stretches */
    private function track(Item $item, string $mark, array $stretches, int $place, int $size = 20, array $answers = ['ripeness' => ['value' => 'ripe']]): array
    {
        return ['item' => $item->id, 'id' => $this->ulid(), 'action' => 'create', 'mark' => $mark, 'base' => 0, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => $this->box($size), 'place' => $place, 'stretches' => $stretches, 'answers' => $answers]];
    }

    /** @return array<string, int> */
    private function box(int $size): array
    {
        return ['x' => 10, 'y' => 10, 'width' => $size, 'height' => $size];
    }

    private function key(Item $item, string $mark, int $place, ?array $key, int $base = 0): array
    {
        return ['item' => $item->id, 'id' => $this->ulid(), 'action' => 'key', 'mark' => $mark, 'base' => $base, 'data' => ['place' => $place, 'key' => $key]];
    }

    private function get_(string $what): array
    {
        return $this->api($this->manager, 'get', "/projects/{$this->project->id}/{$what}")->assertOk()->json();
    }

    /** @return array{string, string} a track of three keys on the first clip, and one of one key on the second */
    private function tracks(): array
    {
        [$a, $b] = ['01AAAAAAAAAAAAAAAAAAAAAAAA', '01BBBBBBBBBBBBBBBBBBBBBBBB'];
        self::assertSame(array_fill(0, 4, 'applied'), $this->send([
            $this->track($this->first, $a, [[5, 15], [20, 30]], 5),
            $this->key($this->first, $a, 10, ['geometry' => $this->box(40), 'answers' => ['load' => ['value' => 'empty']]]),
            $this->key($this->first, $a, 25, ['geometry' => $this->box(30), 'hidden' => true, 'answers' => ['load' => ['value' => 'full']]]),
            $this->track($this->second, $b, [[0, 19]], 0, 24),
        ]));

        return [$a, $b];
    }

    public function test_a_track_is_listed_by_its_best_key_or_by_every_key(): void
    {
        [$a, $b] = $this->tracks();
        $page = $this->get_('objects?sort=item');
        self::assertSame([$a, $b], array_column($page['data'], 'id'));
        self::assertSame([10, 3, 1, ['load' => ['value' => 'empty']]], [$page['data'][0]['mark']['place'], $page['data'][0]['keys'], $page['data'][0]['key']['revision'], $page['data'][0]['varying']]);

        $page = $this->get_('objects?each=key&sort=item');
        self::assertSame([4, ["{$a}@5", "{$a}@10", "{$a}@25", "{$b}@0"]], [$page['total'], array_column($page['data'], 'id')]);
        self::assertSame([20, 40, 30, 24], array_map(static fn (array $one): int => (int) $one['mark']['geometry']['width'], $page['data']));
        self::assertEquals([[], ['load' => ['value' => 'empty']], ['load' => ['value' => 'full']], []], array_column($page['data'], 'varying'));
        self::assertSame(['Ines', 'Ines', 'Ines', 'Ines'], array_column($page['data'], 'author'));
        // each in its own square, of its own frame
        foreach ($page['data'] as $one) {
            self::assertSame('image/jpeg', $this->api($this->manager, 'get', substr($one['crop'], strlen('/api/v1')))->assertOk()->headers->get('Content-Type'));
        }
        self::assertCount(4, array_unique(array_column($page['data'], 'crop')));
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects/{$a}/crop?place=6")->assertStatus(422);

        // of one track, and sorted
        self::assertSame(["{$a}@10", "{$a}@25", "{$a}@5"], array_column($this->get_("objects?each=key&mark={$a}&sort=size&order=desc")['data'], 'id'));
        // from the end, where that is nearer
        self::assertSame(["{$a}@25", "{$b}@0"], array_column($this->get_('objects?each=key&sort=item&offset=2&limit=2')['data'], 'id'));
        $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?each=frame")->assertStatus(422)->assertJsonPath('field', 'each');
    }

    public function test_what_varies_is_asked_of_the_keys(): void
    {
        [$a, $b] = $this->tracks();
        $ids = fn (string $query): array => array_column($this->get_("objects?sort=item&{$query}")['data'], 'id');
        self::assertSame([[$b], [$a], [$a]], [$ids('question=load&answer=open'), $ids('question=load&answer=empty'), $ids('question=load&answer=full')]);
        self::assertSame([["{$a}@5", "{$b}@0"], ["{$a}@10"], ["{$a}@25"]], [$ids('each=key&question=load&answer=open'), $ids('each=key&question=load&answer=empty'), $ids('each=key&question=load&answer=full')]);
        $items = fn (string $f): array => array_column($this->get_('items?f[]='.urlencode($f))['data'], 'path');
        self::assertSame([['row/b.mp4'], ['row/a.mp4']], [$items('answer:load=open'), $items('answer:load=full')]);
        // a key that was taken away says nothing any more
        self::assertSame(['applied'], $this->send([$this->key($this->first, $a, 25, null, 1)]));
        self::assertSame([], $ids('question=load&answer=full'));
    }

    public function test_what_is_said_along_clips_is_gone_through_stretch_by_stretch(): void
    {
        [$a, $b] = $this->tracks();
        $said = static fn (Item $item, string $id, int $base, array $stretches): array => ['item' => $item->id, 'id' => $id, 'action' => 'create', 'mark' => null, 'base' => $base, 'data' => ['kind' => 'item', 'answers' => [], 'tags' => [], 'stretches' => $stretches]];
        $light = static fn (string $value, int $first, int $last): array => ['question' => 'light', 'answer' => ['value' => $value], 'first' => $first, 'last' => $last];
        self::assertSame(['applied'], $this->send([$said($this->first, $this->ulid(), 0, [$light('sun', 0, 9), $light('shade', 20, 39), ['tag' => 'blocked', 'first' => 3, 'last' => 7]])]));
        $plain = static fn (array $page): array => array_map(static fn (array $one): array => [basename($one['item']['path']), $one['first'], $one['last'], $one['answer']['value'] ?? null], $page['data']);

        $all = $this->get_('stretches?question=light');
        self::assertSame([4, [['a.mp4', 0, 9, 'sun'], ['a.mp4', 10, 19, null], ['a.mp4', 20, 39, 'shade'], ['b.mp4', 0, 19, null]]], [$all['total'], $plain($all)]);
        self::assertSame([14, null, 1], [$all['data'][1]['place'], $all['data'][1]['mark'], $all['data'][1]['said']['revision']]);
        self::assertSame([['a.mp4', 10, 19, null], ['b.mp4', 0, 19, null]], $plain($this->get_('stretches?question=light&answer=open')));
        self::assertSame([['a.mp4', 20, 39, 'shade']], $plain($this->get_('stretches?question=light&answer=shade')));
        $tags = $this->get_('stretches?tag=blocked');
        self::assertSame([1, [['a.mp4', 3, 7, null]]], [$tags['total'], $plain($tags)]);

        // of objects: from the key that says it, in what of the track is there
        $load = $this->get_('stretches?question=load');
        self::assertSame([4, [['a.mp4', 5, 9, null], ['a.mp4', 10, 24, 'empty'], ['a.mp4', 25, 30, 'full'], ['b.mp4', 0, 19, null]]], [$load['total'], $plain($load)]);
        self::assertSame([5, 10, 25, 0], array_column($load['data'], 'place'));
        self::assertSame([$a, $a, $a, $b], array_map(static fn (array $one): string => $one['mark']['id'], $load['data']));
        self::assertSame([20, 40, 30, 24], array_map(static fn (array $one): int => (int) $one['mark']['geometry']['width'], $load['data']));
        self::assertSame([1, 1, 1, 1], array_map(static fn (array $one): ?int => $one['key']['revision'] ?? null, $load['data']));

        // where a key was taken away another comes on top of that
        self::assertSame(['applied'], $this->send([$this->key($this->second, $b, 0, ['geometry' => $this->box(25)], 1)]));
        self::assertSame(['applied', 'applied'], $this->send([$this->key($this->second, $b, 3, ['geometry' => $this->box(26)]), $this->key($this->second, $b, 0, null, 2)]));
        $open = $this->get_('stretches?question=load&answer=open')['data'][1];
        self::assertSame(["{$b}@0", 3, true], [$open['id'], $open['key']['revision'], $open['key']['deleted']]);
        self::assertSame(['applied'], $this->send([$this->key($this->second, $b, 0, ['answers' => ['load' => ['value' => 'full']]], 3)]));

        // page by page it is the same, whatever it goes on behind
        foreach (['question=light', 'question=load'] as $query) {
            $found = [];
            $after = '';
            do {
                $page = $this->get_("stretches?{$query}&limit=1&after={$after}");
                $found = [...$found, ...$page['data']];
                $after = $page['data'][0]['id'] ?? '';
            } while ($page['data'] !== []);
            self::assertSame(array_column($this->get_("stretches?{$query}")['data'], 'id'), array_column($found, 'id'));
        }
        foreach (['question=ripeness', 'tag=none', 'question=light&answer=rain', 'question=light&after=../x', 'question=load&class=branch', 'question=light&limit=0'] as $wrong) {
            $this->api($this->manager, 'get', "/projects/{$this->project->id}/stretches?{$wrong}")->assertStatus(422);
        }
        $guest = $this->member($this->project, Role::Labeller, 'Mei');
        self::assertSame([], $this->api($guest, 'get', "/projects/{$this->project->id}/stretches?question=load")->assertOk()->json('data'), 'what somebody has not been given is out of reach');
        $this->api($guest, 'get', "/projects/{$this->project('Other')->id}/stretches?question=load")->assertNotFound();
    }

    public function test_clips_are_found_by_duration_tracks_and_how_much_of_them_is_answered(): void
    {
        [$a] = $this->tracks();
        $ripeness = ['item' => $this->first->id, 'id' => $this->ulid(), 'action' => 'create', 'mark' => '01CCCCCCCCCCCCCCCCCCCCCCCC', 'base' => 0, 'data' => ['class' => 'apple', 'kind' => 'box', 'geometry' => $this->box(20), 'place' => 0, 'stretches' => [[0, 9]], 'answers' => []]];
        $light = ['item' => $this->first->id, 'id' => $this->ulid(), 'action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => 'item', 'answers' => [], 'tags' => [], 'stretches' => [['question' => 'light', 'answer' => ['value' => 'sun'], 'first' => 0, 'last' => 9], ['question' => 'light', 'answer' => ['value' => 'shade'], 'first' => 20, 'last' => 39], ['tag' => 'blocked', 'first' => 3, 'last' => 7]]]];
        $this->items($this->project, 1, 'pictures');
        self::assertSame(['applied', 'applied'], $this->send([$ripeness, $light]));
        $found = fn (string $f): array => array_map(basename(...), array_column($this->get_('items?f[]='.urlencode($f))['data'], 'path'));

        $seconds = $this->first->asset->facts['duration'];
        self::assertSame(['a.mp4'], $found('duration:>='.$seconds));
        self::assertSame(['b.mp4'], $found('duration:<='.($seconds - 0.01)));
        self::assertSame(['p00.png', 'a.mp4'], $found('-duration:<='.($seconds - 0.01)), 'a picture lasts no time');
        self::assertSame([['a.mp4'], ['b.mp4'], ['p00.png']], [$found('tracks:>=2'), $found('tracks:1'), $found('tracks:<=0')]);
        self::assertSame([['a.mp4'], ['a.mp4'], ['a.mp4', 'b.mp4'], ['a.mp4']], [$found('answer:light=sun'), $found('answer:light=shade'), $found('answer:light=open'), $found('tag:blocked')]);

        // the same by going through what the core says of each
        foreach ([$this->first, $this->second] as $item) {
            [$asked, $given] = $this->counted($item);
            $share = 100 * $given / $asked;
            self::assertContains(basename($item->path), $found(sprintf('answered:>=%.6F', $share - 0.001)));
            self::assertNotContains(basename($item->path), $found(sprintf('answered:>=%.6F', $share + 0.001)));
            self::assertContains(basename($item->path), $found(sprintf('answered:%.6F', $share)));
        }
        self::assertSame(['p00.png'], $found('answered:>=100'), 'nothing is asked of a picture without marks');
    }

    /** @return array{int, float} required answers of an item, and how much of them is given */
    private function counted(Item $item): array
    {
        $codebook = $this->project->codebookVersion()->codebook();
        $layer = Layers::agreed($item->id);
        $places = (int) $item->places();
        $open = static fn (array $stretches): Places => array_reduce($stretches, static fn (Places $all, array $s): Places => $s['answer'] === null ? $all->with(Places::stretch($s['first'], $s['last'])) : $all, Places::none());
        $share = static fn (Places $all, array $stretches): float => 1 - self::length($all->without($all->without($open($stretches)))) / self::length($all);
        [$asked, $given] = [1, $share(Places::stretch(0, $places - 1), Along::ofItem($layer->said(), 'light', $places))];
        $keys = Keys::ofLayer($layer->id);
        foreach (MarkRow::query()->where('layer_id', $layer->id)->get() as $row) {
            $mark = $row->mark(keys: $keys[$row->id]);
            $class = $codebook->class($mark->class);
            self::assertNotNull($class);
            foreach ($codebook->asked($class, $mark->answers) as $question) {
                if (! $question->required) {
                    continue;
                }
                $asked++;
                $all = Along::ofTrack($mark->track(), $question->key);
                $given += $question->varies && $mark->there !== null ? $share($mark->there, $all) : (isset($mark->answers[$question->key]) ? 1 : 0);
            }
        }

        return [$asked, $given];
    }

    private static function length(Places $places): int
    {
        return array_sum(array_map(static fn (array $stretch): int => $stretch[1] - $stretch[0] + 1, $places->stretches));
    }
}
