<?php

declare(strict_types=1);

namespace Tests\Feature;

use Skeno\Core\People\Role;
use Tests\TestCase;

/** Items taken out of queues and counts, and brought back as they were. */
final class ArchiveTest extends TestCase
{
    public function test_archived_items_are_in_no_queue_and_no_count_and_come_back_as_they_were(): void
    {
        $project = $this->project();
        [$manager, $mei, $tobias] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller), $this->member($project, Role::Reviewer)];
        $items = $this->items($project, 3);
        $this->assign($project, $manager, $mei, $tobias);
        $path = "/projects/{$project->id}";
        $turn = $this->api($mei, 'post', "{$path}/next", [])->json('packet.turn.id');
        $this->api($mei, 'post', "{$path}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid())]])->assertOk();
        $this->api($mei, 'post', "{$path}/turns/{$turn}/submit", ['nothing' => false])->assertOk();

        $ids = array_map(static fn ($item): int => $item->id, $items);
        $this->api($manager, 'post', "{$path}/items/archive", ['archived' => true, 'items' => [$ids[0], $ids[1]]])->assertOk()->assertJson(['changed' => 2]);
        $this->api($manager, 'post', "{$path}/items/archive", ['archived' => true, 'items' => [$ids[0]]])->assertJson(['changed' => 0]);
        $this->api($manager, 'get', "{$path}/items")->assertJson(['total' => 1]);
        $this->api($manager, 'get', "{$path}/items?state=archived")->assertJson(['total' => 2]);
        $this->api($manager, 'get', "{$path}/sets")->assertJson(['data' => [['path' => 'slope', 'items' => 1]]]);
        $progress = $this->api($manager, 'get', "{$path}/progress")->assertJsonPath('states.archived', 2)->json();
        self::assertSame([0, 0, 0], array_column($progress['classes'], 'marks'));
        self::assertSame([['waiting' => 1]], array_column($progress['sets'], 'states'));
        // the reviewer's queue is empty, the labeller's has the one that is left
        $this->api($tobias, 'post', "{$path}/next", ['purpose' => 'review'])->assertJson(['packet' => null]);
        $this->api($mei, 'get', '/work')->assertJsonPath('projects.0.waiting', 1)->assertJsonPath('projects.0.submitted', 0);
        $last = $this->api($mei, 'post', "{$path}/next", [])->assertJsonPath('packet.item.id', $ids[2])->json('packet.turn.id');
        $this->api($mei, 'get', "{$path}/turns/{$last}/queue")->assertJson(['total' => 1]);
        $this->api($manager, 'post', "{$path}/releases/preview", ['recipe' => ['states' => 'any']])->assertJsonPath('marks', 0);

        // work on an item that is archived under the hand is kept
        $this->api($manager, 'post', "{$path}/items/archive", ['archived' => true, 'filter' => ['set' => 'slope']])->assertJson(['changed' => 1]);
        $this->api($mei, 'post', "{$path}/turns/{$last}/edits", ['edits' => [$this->create($this->ulid())]])->assertOk()->assertJsonPath('results.0.outcome', 'applied');
        $this->api($mei, 'post', "{$path}/next", [])->assertJson(['packet' => null]);

        $this->api($manager, 'post', "{$path}/items/archive", ['archived' => false, 'filter' => ['state' => 'archived']])->assertJson(['changed' => 3]);
        $this->api($manager, 'get', "{$path}/items?state=submitted")->assertJson(['total' => 1]);
        $this->api($tobias, 'post', "{$path}/next", ['purpose' => 'review'])->assertJsonPath('packet.turn.id', $this->decisionOf($turn));
        $this->api($mei, 'post', "{$path}/next", [])->assertJsonPath('packet.turn.id', $last);
    }

    public function test_what_can_not_be_archived_is_said(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager);
        $other = $this->project('Other');
        [$item] = $this->items($other, 1);
        $path = "/projects/{$project->id}/items/archive";
        foreach ([['archived' => true], ['archived' => true, 'items' => [1], 'filter' => ['set' => 'a']], ['archived' => true, 'items' => ['a']], ['archived' => true, 'filter' => ['state' => 'lost']]] as $bad) {
            $this->api($manager, 'post', $path, $bad)->assertStatus(422);
        }
        // an item of another project is none of this one's
        $this->api($manager, 'post', $path, ['archived' => true, 'items' => [$item->id]])->assertJson(['changed' => 0]);
        self::assertNull($item->refresh()->archived_at);
    }
}
