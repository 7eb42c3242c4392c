<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Invitation;
use App\Models\Membership;
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

    /** The limit read the address by the type of the request, the sign-in by its bytes. */
    public function test_guessing_is_slowed_down_whatever_the_request_calls_itself(): void
    {
        $guess = fn (int $i, string $ip) => $this->call('POST', '/api/v1/session', [], [], [], ['CONTENT_TYPE' => 'text/plain', 'HTTP_ACCEPT' => 'application/json', 'REMOTE_ADDR' => $ip], (string) json_encode(['email' => ' MEI@larkmoor.example ', 'password' => "guess {$i}"]));
        for ($i = 0; $i < 8; $i++) {
            $guess($i, '203.0.113.5')->assertStatus(422);
        }
        $guess(9, '203.0.113.5')->assertStatus(429);
        for ($i = 0; $i < 32; $i++) {
            $guess($i, '198.51.100.'.$i)->assertStatus(422);
        }
        $guess(99, '198.51.100.99')->assertStatus(429);
    }

    public function test_no_cookie_leaves_without_secure_behind_tls(): void
    {
        foreach (['https' => true, 'http' => false] as $scheme => $secure) {
            $cookies = $this->call('GET', "{$scheme}://127.0.0.1/api/v1/session", [], [], [], ['HTTP_ACCEPT' => 'application/json'])->assertOk()->headers->getCookies();
            self::assertCount(2, $cookies);
            foreach ($cookies as $cookie) {
                self::assertSame($secure, $cookie->isSecure(), "{$scheme} {$cookie->getName()}");
            }
        }
        $this->call('GET', 'http://127.0.0.1/api/v1/session', [], [], [], ['HTTP_X_FORWARDED_PROTO' => 'https', 'HTTP_ACCEPT' => 'application/json'])->assertOk();
        self::assertFalse(request()->isSecure(), 'a proxy nobody has named is not believed');
    }

    public function test_a_password_is_set_anew_by_a_link_once_and_ends_what_was_open(): void
    {
        $project = $this->project();
        [$manager, $mei] = [$this->member($project, Role::Manager, 'Ines'), $this->member($project, Role::Labeller, 'Mei')];
        $owner = $this->person('Owner', owner: true);
        $path = "/projects/{$project->id}/people/{$mei->id}/password-link";
        $this->api($mei, 'post', $path)->assertForbidden();
        $first = $this->api($manager, 'post', $path)->assertStatus(201)->json('link');
        $link = str_replace('/password/', '/passwords/', $this->api($manager, 'post', $path)->assertStatus(201)->json('link'));
        $this->api(null, 'get', str_replace('/password/', '/passwords/', $first))->assertStatus(410)->assertJson(['code' => 'link_over']);
        $this->api(null, 'get', $link)->assertOk()->assertExactJson(['name' => 'Mei']);
        $this->api(null, 'post', $link, ['password' => 'short'])->assertStatus(422)->assertJson(['field' => 'password']);
        $this->api(null, 'post', $link, ['password' => 'a new long password'])->assertOk()->assertJson(['name' => 'Mei']);
        $this->api(null, 'post', $link, ['password' => 'another long one'])->assertStatus(410);
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'a new long password'])->assertOk();
        // a session begun under the old password is over
        $this->app['auth']->forgetGuards();
        $this->actingAs($mei->fresh(), 'web')->withSession(['password_mark' => 'what it was'])->getJson('/api/v1/work')->assertStatus(401);
        $this->flushSession();
        $this->travel(25)->hours();
        $late = str_replace('/password/', '/passwords/', $this->api($owner, 'post', "/users/{$manager->id}/password-link")->assertStatus(201)->json('link'));
        $this->travel(25)->hours();
        $this->api(null, 'get', $late)->assertStatus(410);
    }

    /** By the account of one of their people a manager would come into projects that are not theirs. */
    public function test_a_manager_makes_no_link_for_who_works_elsewhere_too(): void
    {
        [$ours, $theirs] = [$this->project('Ours'), $this->project('Theirs')];
        $manager = $this->member($ours, Role::Manager, 'Ines');
        $mei = $this->member($ours, Role::Labeller, 'Mei');
        $link = fn () => $this->api($manager, 'post', "/projects/{$ours->id}/people/{$mei->id}/password-link");
        $link()->assertStatus(201);
        Membership::query()->create(['project_id' => $theirs->id, 'user_id' => $mei->id, 'role' => Role::Manager]);
        $link()->assertStatus(403)->assertJson(['code' => 'not_allowed']);
        Membership::query()->where('project_id', $theirs->id)->delete();
        $mei->update(['is_owner' => true]);
        $link()->assertStatus(403);
    }

    public function test_a_disabled_account_ends_everywhere_and_the_last_owner_stays(): void
    {
        $owner = $this->person('Owner', owner: true);
        $mei = $this->member($this->project(), Role::Labeller, 'Mei');
        $this->api($mei, 'get', '/work')->assertOk();
        $this->api($owner, 'patch', "/users/{$mei->id}", ['disabled' => true])->assertOk()->assertJson(['disabled' => true]);
        $this->api($mei, 'get', '/work')->assertStatus(401);
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'correct horse'])->assertStatus(409)->assertJson(['code' => 'disabled']);
        $this->api(null, 'post', '/session', ['email' => 'mei@larkmoor.example', 'password' => 'wrong'])->assertStatus(422)->assertJson(['code' => 'wrong_sign_in']);
        $this->api($owner, 'patch', "/users/{$mei->id}", ['disabled' => false])->assertOk();
        $this->api($mei, 'get', '/work')->assertOk();
        $this->api($owner, 'patch', "/users/{$owner->id}", ['disabled' => true])->assertStatus(409)->assertJson(['code' => 'last_owner']);
        $this->api($owner, 'patch', "/users/{$owner->id}", ['is_owner' => false])->assertStatus(409);
        self::assertTrue($owner->refresh()->is_owner);
        self::assertNull($owner->disabled_at);
    }

    public function test_people_of_the_installation_are_added_from_a_list(): void
    {
        $project = $this->project();
        $manager = $this->member($project, Role::Manager, 'Ines');
        [$ravi, $gone] = [$this->person('Ravi'), $this->person('Gone')];
        $gone->update(['disabled_at' => now()]);
        $this->api($manager, 'get', "/projects/{$project->id}/people/candidates")->assertOk()->assertExactJson(['data' => [['id' => $ravi->id, 'name' => 'Ravi']]]);
        $this->api($manager, 'post', "/projects/{$project->id}/people", ['user' => $ravi->id, 'role' => 'labeller'])->assertStatus(201)->assertJson(['name' => 'Ravi', 'role' => 'labeller', 'disabled' => false]);
        $this->api($manager, 'post', "/projects/{$project->id}/people", ['user' => $ravi->id, 'role' => 'labeller'])->assertStatus(409)->assertJson(['code' => 'already_member']);
        $this->api($manager, 'post', "/projects/{$project->id}/people", ['user' => $gone->id, 'role' => 'labeller'])->assertStatus(409)->assertJson(['code' => 'disabled']);
        $this->api($manager, 'post', "/projects/{$project->id}/people", ['user' => 999, 'role' => 'labeller'])->assertStatus(422)->assertJson(['field' => 'user']);
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
        $this->api($manager, 'delete', "/projects/{$project->id}/people/{$mei->id}")->assertOk()->assertExactJson(['turns' => 1, 'without' => []]);
        $this->api($ravi, 'post', "/projects/{$project->id}/next", [])->assertJson(['packet' => ['turn' => ['id' => $turn]]]);
        $this->api($mei, 'get', "/projects/{$project->id}/turns/{$turn}")->assertNotFound();
    }

    public function test_the_page_has_a_strict_policy_and_missing_assets_are_missing(): void
    {
        $this->get('/_app/immutable/nothing.js')->assertNotFound();
        $this->get('/api/v1/health')->assertOk()->assertHeader('X-Content-Type-Options', 'nosniff')->assertHeader('Content-Security-Policy');
    }
}
