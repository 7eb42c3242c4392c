<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Items\AnswerQuery;
use App\Looks\LookAtObjects;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Imagick;
use ImagickDraw;
use ImagickPixel;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\People\Role;
use Skeno\Core\Quality\ClassLooks;
use Tests\TestCase;

/** All objects of a class side by side: what they look like, which are odd, and edits made there. */
final class ObjectsTest extends TestCase
{
    private Project $project;

    private User $manager;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project();
        $this->manager = $this->member($this->project, Role::Manager);
    }

    /** A picture of one round thing on a ground of another colour. */
    protected function picture(int $width, int $height, string $seed, string $format = 'png'): string
    {
        $image = new Imagick;
        $image->newImage($width, $height, new ImagickPixel(sprintf('rgb(%d,%d,%d)', 60 + crc32($seed) % 9, 90, 70)));
        $draw = new ImagickDraw;
        $draw->setFillColor(str_contains($seed, 'green') ? 'rgb(150,190,60)' : sprintf('rgb(%d,40,30)', 190 + crc32("r{$seed}") % 20));
        $draw->ellipse(25, 25, 14, 13 + crc32("e{$seed}") % 3, 0, 360);
        $image->drawImage($draw);
        $image->setImageFormat($format);
        $image->setImageProperty('comment', $seed);
        $file = $this->temporary().'/'.md5($seed).".{$format}";
        $image->writeImage($file);

        return $file;
    }

    /** @return list<string> marks, one on each item */
    private function mark(array $items, string $class = 'apple', array $answers = ['ripeness' => ['value' => 'ripe']]): array
    {
        $edits = $marks = [];
        foreach ($items as $i => $item) {
            $edit = ['item' => $item->id] + $this->create($marks[] = $this->ulid(), 11, 11, 28, 28 + $i % 2);
            $edits[] = array_replace_recursive($edit, ['data' => ['class' => $class]]);
            $edits[$i]['data']['answers'] = $answers;
        }
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => $edits])->assertOk()->assertJsonPath('results.0.outcome', 'applied');

        return $marks;
    }

    private function page(string $query, ?User $as = null): array
    {
        return $this->api($as ?? $this->manager, 'get', "/projects/{$this->project->id}/objects?{$query}")->assertOk()->json();
    }

    public function test_one_of_another_kind_is_the_oddest_and_is_mended_in_place(): void
    {
        $red = $this->mark($this->items($this->project, ClassLooks::LEAST + 5, 'red'));
        [$wrong] = $this->mark($this->items($this->project, 1, 'green'));
        $page = $this->page('class=apple&sort=oddness&limit=3');
        self::assertSame(ClassLooks::LEAST + 6, $page['total']);
        self::assertSame(0, $page['due']);
        self::assertSame($wrong, $page['data'][0]['mark']['id']);
        self::assertGreaterThan(2 * $page['data'][1]['oddness'], $page['data'][0]['oddness']);
        self::assertEquals([28, 28], $page['data'][0]['size']);
        self::assertSame($wrong, $this->page('class=apple&sort=oddness&order=asc&offset='.(ClassLooks::LEAST + 5))['data'][0]['mark']['id']);

        // its crop, by whoever sees the items
        $guest = $this->member($this->project, Role::Guest);
        $crop = $this->api($guest, 'get', "/projects/{$this->project->id}/objects/{$wrong}/crop?v=1")->assertOk()->baseResponse->getFile()->getPathname();
        self::assertSame([192, 192], array_slice((array) getimagesize($crop), 0, 2));
        self::assertNull($this->page('class=apple', $guest)['data'][0]['author']);

        // the class is changed, taken back, and the mark deleted and brought back
        $path = "/projects/{$this->project->id}/edits";
        $item = $page['data'][0]['item']['id'];
        $edit = fn (string $action, int $base, array $data = []): array => ['edits' => [['item' => $item, 'id' => $this->ulid(), 'action' => $action, 'mark' => $wrong, 'base' => $base, 'data' => $data]]];
        $this->api($this->manager, 'post', $path, $edit('change', 1, ['class' => 'scab']))->assertJsonPath('results.0.mark.revision', 2);
        self::assertSame(ClassLooks::LEAST + 5, $this->page('class=apple')['total']);
        self::assertNull(MarkRow::query()->find($wrong)?->oddness, 'of another class it is not known how odd it is');
        self::assertTrue(DB::table('looks')->where('mark_id', $wrong)->exists(), 'what it looks like stays');
        $this->api($this->manager, 'post', $path, $edit('change', 1, ['class' => 'apple']))->assertJsonPath('results.0.outcome', 'conflict');
        $this->api($this->manager, 'post', $path, $edit('change', 2, ['class' => 'apple']))->assertJsonPath('results.0.outcome', 'applied');
        $this->api($this->manager, 'post', $path, $edit('delete', 3))->assertJsonPath('results.0.outcome', 'applied');
        self::assertSame(ClassLooks::LEAST + 5, $this->page('class=apple')['total']);
        $this->api($this->manager, 'post', $path, $edit('create', 4, ['class' => 'apple', 'kind' => 'box', 'geometry' => ['x' => 11, 'y' => 11, 'width' => 28, 'height' => 20]]))->assertJsonPath('results.0.outcome', 'applied');
        $data = $this->page('class=apple&sort=size')['data'];
        self::assertSame($wrong, $data[0]['mark']['id'], 'the smallest, looked at anew');
        self::assertEquals([28, 20], $data[0]['size']);
        self::assertContains($red[0], array_column(array_column($data, 'mark'), 'id'));
    }

    public function test_an_option_called_open_is_told_from_nothing_said(): void
    {
        $document = ['skeno' => 'codebook/1', 'classes' => [['key' => 'gate', 'name' => 'Gate', 'shapes' => ['box'], 'attributes' => ['stands', 'swings']]], 'attributes' => [
            ['key' => 'stands', 'name' => 'Stands', 'type' => 'one', 'scope' => 'object', 'options' => [['key' => 'open', 'name' => 'Open'], ['key' => 'shut', 'name' => 'Shut']]],
            ['key' => 'swings', 'name' => 'Swings', 'type' => 'many', 'scope' => 'object', 'options' => [['key' => 'open', 'name' => 'Open'], ['key' => 'in', 'name' => 'In']]],
        ]];
        $questions = Codebook::fromArray($document)->attributes;
        self::assertSame(['open', 'is:open', 'shut'], $questions['stands']->words());
        $item = $this->items($this->project, 1, 'red')[0];
        [$stands] = $this->mark([$item], 'apple', ['stands' => ['value' => 'open']]);
        [$swings] = $this->mark([$item], 'apple', ['swings' => ['value' => ['in', 'open']]]);
        $said = static function (string $question, string $answer) use ($questions): array {
            $query = DB::table('marks');
            AnswerQuery::said($query, $questions[$question], $answer);

            return $query->pluck('id')->all();
        };
        self::assertSame([[$stands], [$swings], [$swings], [$stands]], [$said('stands', 'is:open'), $said('stands', 'open'), $said('swings', 'is:open'), $said('swings', 'open')]);
    }

    public function test_they_are_filtered_by_answer_and_only_where_the_question_is_asked(): void
    {
        $items = $this->items($this->project, 6, 'red');
        $this->mark(array_slice($items, 0, 2));
        $this->mark(array_slice($items, 2, 1), 'apple', ['ripeness' => ['no_value' => 'unsure']]);
        $cracked = $this->mark(array_slice($items, 3, 1), 'apple', ['ripeness' => ['value' => 'green'], 'damage' => ['value' => ['crack']]]);
        $open = $this->mark(array_slice($items, 4, 1), 'apple', []);
        $this->mark(array_slice($items, 5, 1), 'blurred', []);
        $ids = fn (string $query): array => array_column(array_column($this->page($query)['data'], 'mark'), 'id');
        self::assertCount(5, $ids('question=ripeness'));
        self::assertSame($open, $ids('question=ripeness&answer=open'));
        self::assertCount(2, $ids('question=ripeness&answer=ripe'));
        self::assertCount(1, $ids('question=ripeness&answer=no:unsure'));
        self::assertSame($cracked, $ids('question=damage&answer=crack'));
        // how long the crack is is asked of cracked ones only
        self::assertSame($cracked, $ids('question=crack_length&answer=open'));
        foreach (['question=colour', 'question=ripeness&answer=blue', 'class=plum', 'sort=beauty', 'sort=answer', 'limit=5000', 'offset=-1', 'order=up'] as $bad) {
            $this->api($this->manager, 'get', "/projects/{$this->project->id}/objects?{$bad}")->assertStatus(422);
        }
    }

    public function test_everybody_changes_only_what_they_reach(): void
    {
        [$mei, $ravi, $tobias, $other] = [$this->member($this->project, Role::Labeller), $this->member($this->project, Role::Labeller), $this->member($this->project, Role::Reviewer), $this->member($this->project, Role::Reviewer)];
        $this->mark($this->items($this->project, 3, 'red'), 'apple', []);
        $this->assign($this->project, $this->manager, $mei, $tobias, ['pool' => 'all']);
        $path = "/projects/{$this->project->id}";
        $seen = fn (User $who): array => $this->page('class=apple', $who)['data'];
        self::assertCount(3, $seen($mei));
        self::assertCount(0, $seen($ravi));
        self::assertCount(3, $seen($tobias));
        self::assertCount(0, $seen($other));
        $answer = fn (array $object): array => ['edits' => [['item' => $object['item']['id'], 'id' => $this->ulid(), 'action' => 'answer', 'mark' => $object['mark']['id'], 'base' => $object['mark']['revision'], 'seconds' => 4, 'data' => ['attribute' => 'ripeness', 'answer' => ['value' => 'green']]]]];
        $objects = $seen($mei);
        $this->api($ravi, 'post', "{$path}/edits", $answer($objects[0]))->assertOk()->assertJsonPath('results.0.outcome', 'refused');
        $this->api($other, 'post', "{$path}/edits", $answer($objects[0]))->assertJsonPath('results.0.outcome', 'refused');
        $this->api($mei, 'post', "{$path}/edits", $answer($objects[0]))->assertJsonPath('results.0.outcome', 'applied')->assertJsonPath('results.0.mark.answers.ripeness.value', 'green');
        self::assertSame(4, (int) DB::table('turns')->where('item_id', $objects[0]['item']['id'])->value('seconds'), 'the time counts for the turn');
        // what has been submitted is out of the labeller's reach, not of the reviewer's
        $turn = $this->api($mei, 'post', "{$path}/next", [])->json('packet.turn.id');
        $this->api($mei, 'post', "{$path}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        $submitted = $seen($tobias)[0];
        self::assertCount(2, $seen($mei));
        $this->api($mei, 'post', "{$path}/edits", $answer($submitted))->assertJsonPath('results.0.outcome', 'refused');
        $this->api($tobias, 'post', "{$path}/edits", $answer($submitted))->assertJsonPath('results.0.outcome', 'applied');
        $this->api($this->manager, 'post', "{$path}/edits", ['edits' => [['item' => 'x'], 7, ['item' => $submitted['item']['id'], 'action' => 'change']]])
            ->assertJsonPath('results.*.outcome', ['refused', 'refused', 'refused']);
    }

    public function test_the_worker_is_asked_once_and_asks_again_after_what_comes_meanwhile(): void
    {
        DB::table('projects')->update(['looks_asked_at' => now()]);
        $this->mark($this->items($this->project, 1, 'red'));
        self::assertSame(1, LookAtObjects::due($this->project->id), 'somebody has asked already');
        $this->travel(11)->minutes();
        $page = $this->page('class=apple');
        self::assertSame([1, true], [$page['due'], $page['looking']]);
        self::assertSame(0, $this->page('class=apple')['due'], 'after ten minutes the worker is taken for dead and asked again');
    }

    public function test_the_guard_speaks_at_the_bench_only_with_enough_examples_and_when_it_is_on(): void
    {
        $mei = $this->member($this->project, Role::Labeller);
        $this->mark($this->items($this->project, ClassLooks::LEAST + 10, 'red'));
        $green = $this->items($this->project, ClassLooks::LEAST + 11, 'green');
        $this->mark(array_slice($green, 0, ClassLooks::LEAST - 1), 'scab', []);
        $this->assign($this->project, $this->manager, $mei, null, ['pool' => 'all', 'sets' => ['green']]);
        $path = "/projects/{$this->project->id}";
        $open = end($green)->id;
        $turn = (int) DB::table('turns')->where('item_id', $open)->value('id');
        $this->api($mei, 'post', "{$path}/turns/{$turn}/take")->assertOk()->assertJson(['slip_guard' => true]);
        $guard = fn (string $class, array $more = []) => $this->api($mei, 'post', "{$path}/turns/{$turn}/compute", $more + ['op' => 'looks', 'kind' => 'box', 'geometry' => ['x' => 11, 'y' => 11, 'width' => 28, 'height' => 28], 'class' => $class]);
        $guard('apple')->assertOk()->assertJson(['doubt' => null]);
        $this->mark(array_slice($green, ClassLooks::LEAST - 1, 11), 'scab', []);
        $guard('apple')->assertOk()->assertJsonPath('doubt.class', 'scab');
        $guard('scab')->assertJson(['doubt' => null]);
        $guard('blurred')->assertJson(['doubt' => null]);
        $guard('apple', ['geometry' => ['x' => 11, 'y' => 11, 'width' => 0, 'height' => 0]])->assertJson(['doubt' => null]);
        $guard('apple', ['kind' => 'blob'])->assertStatus(422)->assertJson(['field' => 'kind']);
        $this->api($this->manager, 'patch', $path, ['slip_guard' => false])->assertOk();
        $guard('apple')->assertJson(['doubt' => null]);
    }

    public function test_a_lot_is_drawn_by_difference(): void
    {
        $mei = $this->member($this->project, Role::Labeller);
        $red = $this->items($this->project, 12, 'red');
        $green = $this->items($this->project, 2, 'green');
        $path = "/projects/{$this->project->id}/assignments";
        // all but one of the red ones are labelled: what is least like them is a green one, and then the other green one is no news
        $this->mark(array_slice($red, 0, 11));
        DB::table('items')->whereIn('id', array_map(static fn ($item): int => $item->id, array_slice($red, 0, 11)))->update(['state' => 'accepted']);
        $body = ['labellers' => [$mei->id], 'reviewers' => [], 'choose' => 'difference', 'count' => 1];
        $preview = $this->api($this->manager, 'post', "{$path}/preview", $body)->assertOk()->json();
        self::assertSame(1, $preview['items']);
        self::assertSame([3, 3, 0], [$preview['lot']['pool'], $preview['lot']['compared'], $preview['lot']['unknown']]);
        self::assertLessThanOrEqual($preview['lot']['random']['most'], $preview['lot']['cover']['most']);
        $this->api($this->manager, 'post', $path, $body)->assertStatus(201)->assertJsonPath('states.waiting', 1);
        self::assertContains(DB::table('turns')->whereNotNull('assignment_id')->value('item_id'), array_map(static fn ($item): int => $item->id, $green));
        $this->api($this->manager, 'post', $path, $body)->assertStatus(201);
        self::assertContains($red[11]->id, DB::table('turns')->whereNotNull('assignment_id')->pluck('item_id')->all());
        $this->api($this->manager, 'post', "{$path}/preview", ['choose' => 'beauty', 'count' => 2] + $body)->assertStatus(422);
        $this->api($this->manager, 'post', "{$path}/preview", ['count' => 5000] + $body)->assertStatus(422);
        // what nobody has looked at can't be drawn so
        DB::table('picture_looks')->delete();
        DB::table('projects')->update(['looks_asked_at' => now()]);
        $this->api($this->manager, 'post', "{$path}/preview", $body)->assertStatus(409)->assertJson(['code' => 'not_looked_at']);
    }

    public function test_what_a_model_was_unsure_of_comes_first_until_a_hand_has_been_at_it(): void
    {
        $items = $this->items($this->project, 3, 'red');
        $drawn = $this->mark(array_slice($items, 0, 1))[0];
        $file = $this->temporary().'/results.json';
        $box = static fn (int $image, mixed $score): array => ['id' => $image, 'image_id' => $image, 'category_id' => 1, 'bbox' => [11, 11, 28, 28], 'score' => $score];
        file_put_contents($file, json_encode(['images' => array_map(static fn (int $i): array => ['id' => $i, 'file_name' => "p0{$i}.png"], [1, 2]), 'categories' => [['id' => 1, 'name' => 'Apple']], 'annotations' => [$box(1, 0.9), $box(2, 0.25), ['id' => 9, 'bbox' => [2, 2, 20, 20], 'score' => 7] + $box(2, 7)]]));
        $report = app(\App\Intake\TakeLabels::class)($this->project, \Skeno\Core\Formats\Format::Coco, $file, true, false);
        self::assertSame(3, $report['objects'], json_encode($report));
        self::assertContains(['what' => 'scores that are not between 0 and 1 were left out', 'count' => 1], $report['notices']);
        $sure = fn (): array => array_column(array_column($this->page('class=apple&sort=confidence')['data'], 'mark'), 'confidence', 'id');
        self::assertSame([0.25, 0.9, null, null], array_values($sure()));
        $first = array_key_first($sure());
        $row = MarkRow::query()->findOrFail($first);
        $this->api($this->manager, 'post', "/projects/{$this->project->id}/edits", ['edits' => [['item' => $row->item_id, 'id' => $this->ulid(), 'action' => 'answer', 'mark' => $first, 'base' => $row->revision, 'data' => ['attribute' => 'ripeness', 'answer' => ['value' => 'ripe']]]]])->assertJsonPath('results.0.mark.confidence', null);
        self::assertSame([0.9, null, null, null], array_values($sure()));
        self::assertArrayHasKey($drawn, $sure());
    }
}
