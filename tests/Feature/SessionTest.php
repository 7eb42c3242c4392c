<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Invitation;
use App\Models\User;
use Skeno\Core\People\Role;
use Tests\TestCase;

final class SessionTest extends TestCase
{
    public function test_an_empty_installation_gets_one_owner(): void
    {
        $this->api(null, 'get', '/session')->assertJson(['user' => null, 'first_run' => true]);
        $owner = ['name' => 'Ines', 'email' => 'Ines@Larkmoor.example', 'password' => 'a long password'];
        $this->api(null, 'post', '/setup', ['password' => 'short'] + $owner)->assertStatus(422)->assertJson(['field' => 'password']);
        $this->api(null, 'post', '/setup', $owner)->assertStatus(201)->assertJson(['is_owner' => true, 'email' => 'ines@larkmoor.example']);
        $this->api(null, 'post', '/setup', ['email' => 'b@larkmoor.example'] + $owner)->assertStatus(409)->assertJson(['code' => 'not_first_run']);
        self::assertSame(1, User::query()->count());
    }

    public function test_signing_in_and_out(): void
    {
        $this->person('Mei');
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'wrong'])->assertStatus(422)->assertJson(['code' => 'wrong_sign_in']);
        $this->api(null, 'post', '/session', ['email' => 'nobody@larkmoor.example', 'password' => 'wrong'])->assertStatus(422)->assertJson(['code' => 'wrong_sign_in']);
        $this->api(null, 'post', '/session', ['email' => 'MEI@larkmoor.example', 'password' => 'correct horse'])->assertOk()->assertJson(['name' => 'Mei']);
        $this->api(null, 'delete', '/session')->assertNoContent();
        $this->api(null, 'get', '/projects')->assertStatus(401)->assertJson(['code' => 'not_signed_in']);
    }

    public function test_guessing_is_slowed_down(): void
    {
        for ($i = 0; $i < 8; $i++) {
            $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => "guess {$i}"])->assertStatus(422);
        }
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'guess'])->assertStatus(429)->assertJson(['code' => 'too_many_tries']);
    }

    public function test_one_click_works_for_demo_people_only(): void
    {
        $real = $this->person('Mei');
        $this->api(null, 'get', '/session')->assertJson(['demo_people' => []]);
        $this->api(null, 'post', '/session', ['demo' => $real->id])->assertStatus(422);
        $demo = $this->person('Ravi');
        $demo->update(['is_demo' => true]);
        $this->api(null, 'get', '/session')->assertJson(['demo_people' => [['id' => $demo->id, 'name' => 'Ravi']]]);
        $this->api(null, 'post', '/session', ['demo' => $demo->id])->assertOk();
    }

    public function test_the_password_is_changed_with_the_present_one(): void
    {
        $mei = $this->person('Mei');
        $this->api($mei, 'put', '/session/password', ['current' => 'wrong', 'password' => 'another password'])->assertStatus(422)->assertJson(['field' => 'current']);
        $this->api($mei, 'put', '/session/password', ['current' => 'correct horse', 'password' => 'another password'])->assertNoContent();
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'another password'])->assertOk();
    }

    public function test_settings_of_the_bench_are_kept_and_keys_never_clash(): void
    {
        $mei = $this->person('Mei');
        $path = '/session/settings';
        $this->api($mei, 'patch', $path, ['mask_opacity' => 0.25, 'loupe' => false, 'keys' => ['KeyS' => 'KeyF', 'KeyF' => 'KeyS', 'KeyA' => 'Semicolon']])->assertOk()->assertJson(['settings' => ['mask_opacity' => 0.25, 'loupe' => false, 'keys' => ['KeyA' => 'Semicolon']]]);
        foreach ([['mask_opacity' => 0], ['hand_opacity' => 2], ['keys' => ['KeyS' => 'KeyF']], ['keys' => ['KeyS' => 'Digit1']], ['keys' => ['KeyP' => 'KeyS']], ['keys' => ['KeyS' => 7]]] as $bad) {
            $this->api($mei, 'patch', $path, $bad)->assertStatus(422);
        }
        $this->api($mei, 'patch', $path, ['theme' => 'dusk'])->assertJsonPath('settings.keys.KeyS', 'KeyF');
        self::assertArrayNotHasKey('keys', $this->api($mei, 'patch', $path, ['keys' => (object) []])->json('settings'));
    }

    public function test_an_invitation_works_once_and_for_a_week(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager);
        $invite = fn (): string => (string) substr((string) $this->api($manager, 'post', "/projects/{$project->id}/invitations", ['role' => 'labeller'])->assertStatus(201)->json('link'), 6);
        $token = $invite();
        $this->api(null, 'get', "/invitations/{$token}")->assertJson(['project' => 'Sample', 'role' => 'labeller']);
        $aoife = ['name' => 'Aoife', 'email' => 'aoife@larkmoor.example', 'password' => 'a long password'];
        $this->api(null, 'post', "/invitations/{$token}", $aoife)->assertOk();
        self::assertDatabaseHas('memberships', ['project_id' => $project->id, 'role' => 'labeller', 'user_id' => User::query()->where('name', 'Aoife')->value('id')]);
        $this->api(null, 'post', "/invitations/{$token}", ['email' => 'x@larkmoor.example'] + $aoife)->assertStatus(410)->assertJson(['code' => 'invitation_over']);

        $late = $invite();
        $this->travel(8)->days();
        $this->api(null, 'get', "/invitations/{$late}")->assertStatus(410);
        $this->api(null, 'post', "/invitations/{$late}", ['email' => 'y@larkmoor.example'] + $aoife)->assertStatus(410);
        self::assertSame(2, Invitation::query()->count());
        self::assertStringNotContainsString($token, (string) json_encode(Invitation::query()->get()), 'only a hash is kept');
    }

    public function test_the_last_manager_stays(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager);
        $this->api($manager, 'delete', "/projects/{$project->id}/people/{$manager->id}")->assertStatus(409)->assertJson(['code' => 'last_manager']);
        $this->api($manager, 'patch', "/projects/{$project->id}/people/{$manager->id}", ['role' => 'guest'])->assertStatus(409);
        $this->api($manager, 'get', "/projects/{$project->id}/people")->assertOk()->assertJsonCount(1, 'data');
    }

    public function test_a_person_removed_gives_back_what_they_held(): void
    {
        $project = $this->project();
        [$manager, $mei, $ravi] = [$this->member($project, Role::Manager), $this->member($project, Role::Labeller), $this->member($project, Role::Labeller)];
        $this->items($project, 1);
        $this->api($manager, 'post', "/projects/{$project->id}/assignments", ['labellers' => [$mei->id, $ravi->id], 'reviewers' => []])->assertStatus(201);
        $turn = $this->api($mei, 'post', "/projects/{$project->id}/next", [])->json('packet.turn.id');
        $this->api($ravi, 'post', "/projects/{$project->id}/next", [])->assertJson(['packet' => null]);
        $this->api($manager, 'delete', "/projects/{$project->id}/people/{$mei->id}")->assertNoContent();
        $this->api($ravi, 'post', "/projects/{$project->id}/next", [])->assertJson(['packet' => ['turn' => ['id' => $turn]]]);
        $this->api($mei, 'get', "/projects/{$project->id}/turns/{$turn}")->assertNotFound();
    }

    public function test_the_page_has_a_strict_policy_and_missing_assets_are_missing(): void
    {
        $this->get('/_app/immutable/nothing.js')->assertNotFound();
        $this->get('/api/v1/health')->assertOk()->assertHeader('X-Content-Type-Options', 'nosniff')->assertHeader('Content-Security-Policy');
    }
}
