<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\CodebookVersion;
use App\Models\User;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;

final class CodebookTest extends TestCase
{
    public function test_versions_are_kept_and_a_stale_page_does_not_overwrite(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager);
        $document = Samples::document();
        $document['classes'][] = ['key' => 'pear', 'name' => 'Pear', 'shapes' => ['box']];
        $this->api($manager, 'put', "/projects/{$project->id}/codebook", ['base' => 1, 'document' => $document, 'note' => 'pears too'])->assertOk()->assertJson(['version' => 2]);
        $this->api($manager, 'put', "/projects/{$project->id}/codebook", ['base' => 1, 'document' => Samples::document()])->assertStatus(409)->assertJson(['code' => 'codebook_changed', 'version' => 2]);
        $this->api($manager, 'get', "/projects/{$project->id}/codebook?version=1")->assertJson(['version' => 1])->assertJsonCount(3, 'document.classes');
        $this->api($manager, 'get', "/projects/{$project->id}/codebook/versions")->assertJsonPath('data.0.note', 'pears too');
        $this->api($manager, 'get', "/projects/{$project->id}/codebook")->assertJsonCount(4, 'looks');
    }

    public function test_a_broken_codebook_changes_nothing_and_says_where(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager);
        $document = Samples::document();
        $document['classes'][0]['shapes'] = ['blob'];
        $this->api($manager, 'put', "/projects/{$project->id}/codebook", ['base' => 1, 'document' => $document])->assertStatus(422)->assertJson(['code' => 'invalid_codebook', 'errors' => [['path' => 'classes[0].shapes[0]']]]);
        $this->api($manager, 'post', "/projects/{$project->id}/codebook/check", ['document' => $document])->assertOk()->assertJsonPath('errors.0.path', 'classes[0].shapes[0]');
        self::assertSame(1, CodebookVersion::query()->count());
    }

    public function test_a_class_or_answer_in_use_cannot_vanish(): void
    {
        $project = $this->project();
        [$manager, $mei] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller)];
        $this->items($project, 1);
        $this->assign($project, $manager, $mei, null);
        $turn = $this->api($mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        $this->api($mei, 'post', "/projects/{$project->id}/turns/{$turn}/edits", ['edits' => [$this->create($this->ulid())]])->assertOk();
        $withoutRipe = Samples::document();
        array_splice($withoutRipe['attributes'][0]['options'], 1, 1);
        $withoutApple = Samples::document();
        array_splice($withoutApple['classes'], 0, 1);
        foreach (['answer:ripeness=ripe' => $withoutRipe, 'class:apple' => $withoutApple] as $address => $document) {
            $this->api($manager, 'put', "/projects/{$project->id}/codebook", ['base' => 1, 'document' => $document])->assertStatus(409)->assertJson(['code' => 'labels_orphaned', 'orphans' => [['address' => $address, 'count' => 1]]]);
        }
        $withoutScab = Samples::document();
        array_splice($withoutScab['classes'], 1, 1);
        $this->api($manager, 'put', "/projects/{$project->id}/codebook", ['base' => 1, 'document' => $withoutScab])->assertOk();
    }

    public function test_the_handbook_is_kept_in_versions(): void
    {
        $project = $this->project();
        [$manager, $mei] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller)];
        $this->api($manager, 'put', "/projects/{$project->id}/handbook", ['base' => 0, 'body' => '# Apples'])->assertJson(['version' => 1]);
        $this->api($manager, 'put', "/projects/{$project->id}/handbook", ['base' => 0, 'body' => 'other'])->assertStatus(409);
        $this->api($mei, 'get', "/projects/{$project->id}/handbook")->assertJson(['version' => 1, 'body' => '# Apples']);
    }

    public function test_a_person_the_owner_lets_creates_projects_and_manages_them(): void
    {
        $owner = $this->person('Owner', true);
        $ines = $this->person('Ines');
        $this->api($ines, 'post', '/projects', ['name' => 'Canopy'])->assertForbidden();
        $this->api($owner, 'patch', "/users/{$ines->id}", ['can_create' => true])->assertJson(['can_create' => true]);
        $id = $this->api($ines, 'post', '/projects', ['name' => 'Canopy', 'codebook' => Samples::document()])->assertStatus(201)->assertJson(['role' => 'manager'])->json('id');
        $this->api($ines, 'post', '/projects', ['name' => 'Canopy'])->assertStatus(409)->assertJson(['code' => 'name_taken']);
        $this->api($ines, 'patch', "/projects/{$id}", ['name' => 'Canopy walk', 'group' => 'Orchard', 'own_review' => true])->assertJson(['name' => 'Canopy walk', 'own_review' => true]);
        $this->api($owner, 'patch', "/users/{$owner->id}", ['is_owner' => false])->assertStatus(409)->assertJson(['code' => 'last_owner']);
        $this->api($owner, 'get', '/users')->assertJsonCount(User::query()->count(), 'data');
        $this->api($ines, 'get', '/projects')->assertJsonCount(1, 'data');
    }
}
