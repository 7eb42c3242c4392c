<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Accounts;
use App\Access\Actor;
use App\Http\Input;
use App\Http\Middleware\StillWelcome;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Auth\SessionGuard;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Hash;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Ability;

/** Who is here: first run, sign-in and out, invitations, one's own password and settings. */
final class SessionController
{
    /** Numbers that may be set, and between what. */
    private const NUMBERS = ['mask_opacity' => [0.05, 1.0], 'hand_opacity' => [0.05, 1.0], 'brightness' => [0.2, 3.0], 'contrast' => [0.2, 3.0], 'gamma' => [0.2, 4.0], 'line_weight' => [0.5, 4.0], 'margin' => [0.0, 4.0]];

    /** What is on or off. */
    private const SWITCHES = ['deck_folded', 'loupe', 'shade_rest', 'mark_names'];

    public function show(Request $request): JsonResponse
    {
        $user = $request->user();

        return new JsonResponse([
            'user' => $user instanceof User ? $this->shape($user) : null,
            'first_run' => User::query()->doesntExist(),
            // only a seeded demo has such people; a real installation never
            'demo_people' => $user === null ? User::query()->where('is_demo', true)->orderBy('id')->get()->map(static fn (User $user): array => ['id' => $user->id, 'name' => $user->name, 'what' => (string) ($user->settings['what'] ?? '')])->all() : [],
        ]);
    }

    public function setUp(Request $request): JsonResponse
    {
        $in = Input::body($request);
        [$name, $email, $password] = [$this->name($in->string('name', 200)), $this->email($in->string('email', 200)), Accounts::password($in->string('password', 200), 'password')];
        $user = DB::transaction(static function () use ($name, $email, $password): User {
            if (User::query()->exists()) {
                throw Refusal::because('not_first_run', 'this installation has an owner already; sign in or ask for an invitation');
            }

            return User::query()->create(['name' => $name, 'email' => $email, 'password' => $password, 'is_owner' => true, 'can_create' => true, 'settings' => []])->refresh();
        });

        return $this->signIn($request, $user, 201);
    }

    public function store(Request $request): JsonResponse
    {
        $in = Input::body($request);
        if ($in->has('demo')) {
            $user = User::query()->where('is_demo', true)->whereNull('disabled_at')->find($in->int('demo'));
        } else {
            $user = User::query()->where('email', mb_strtolower(trim($in->string('email', 200))))->first();
            // the same work whether or not the person exists
            $hash = $user->password ?? '$2y$12$1fcaJ.3HPRBTEZ5cIJ4Ae.xBKfKC6FkZ0nQxLPoXkFvUhC8PcmmM2';
            if (! Hash::check($in->string('password', 200), $hash)) {
                $user = null;
            }
            if ($user?->disabled_at !== null) {
                throw Refusal::because('disabled', 'this account is disabled; ask the owner of the installation');
            }
        }
        if ($user === null) {
            throw Refusal::because('wrong_sign_in', 'this address and password do not go together');
        }

        return $this->signIn($request, $user, 200);
    }

    public function destroy(Request $request): Response
    {
        $this->guard()->logout();
        if ($request->hasSession()) {
            $request->session()->invalidate();
            $request->session()->regenerateToken();
        }

        return new Response('', 204);
    }

    public function changePassword(Request $request): Response
    {
        $user = $this->user($request);
        $in = Input::body($request);
        if (! Hash::check($in->string('current', 200), $user->password)) {
            throw InvalidValue::at('current', '…', 'your present password');
        }
        $user->update(['password' => Accounts::password($in->string('password', 200), 'password')]);
        // other places where this person is signed in must sign in again
        $user->tokens()->delete();
        StillWelcome::begin($request, $user);

        return new Response('', 204);
    }

    public function changeSettings(Request $request): JsonResponse
    {
        $user = $this->user($request);
        $in = Input::body($request);
        $settings = $user->settings;
        if ($in->has('theme')) {
            $theme = $in->string('theme', 10);
            $settings['theme'] = in_array($theme, ['paper', 'dusk', 'auto'], true) ? $theme : throw InvalidValue::at('theme', $theme, 'paper, dusk or auto');
        }
        foreach (self::NUMBERS as $key => [$least, $most]) {
            if ($in->has($key)) {
                $number = $in->number($key);
                $settings[$key] = $number >= $least && $number <= $most ? round($number, 2) : throw InvalidValue::at($key, $number, "{$least} to {$most}");
            }
        }
        foreach (self::SWITCHES as $key) {
            if ($in->has($key)) {
                $settings[$key] = $in->bool($key);
            }
        }
        if (is_array($in->raw('keys'))) {
            $settings['keys'] = $this->keys($in->map('keys'));
        }
        $user->update(['settings' => $settings]);

        return new JsonResponse($this->shape($user));
    }

    /** Whose password a link sets. */
    public function showPasswordLink(string $token, Accounts $accounts): JsonResponse
    {
        return new JsonResponse(['name' => $accounts->ofLink($token)->name]);
    }

    public function setPassword(Request $request, string $token, Accounts $accounts): JsonResponse
    {
        return $this->signIn($request, $accounts->setPassword($token, Input::body($request)->string('password', 200)), 200);
    }

    public function showInvitation(string $token): JsonResponse
    {
        $invitation = $this->invitation($token);

        return new JsonResponse(['project' => $invitation->project->name, 'role' => $invitation->role->value, 'expires_at' => $invitation->expires_at->toIso8601ZuluString()]);
    }

    /** Joins as the person signed in, or makes a person first. */
    public function acceptInvitation(Request $request, string $token): JsonResponse
    {
        $in = Input::body($request);
        $user = DB::transaction(function () use ($request, $in, $token): User {
            $invitation = $this->invitation($token);
            $user = $request->user();
            if (! $user instanceof User) {
                [$name, $email, $password] = [$this->name($in->string('name', 200)), $this->email($in->string('email', 200)), Accounts::password($in->string('password', 200), 'password')];
                if (User::query()->where('email', $email)->exists()) {
                    throw Refusal::because('email_taken', 'somebody has signed up with this address; sign in first, then open the link again');
                }
                $user = User::query()->create(['name' => $name, 'email' => $email, 'password' => $password, 'settings' => []])->refresh();
            }
            if (Membership::query()->where('project_id', $invitation->project_id)->where('user_id', $user->id)->exists()) {
                throw Refusal::because('already_member', 'you are in this project already');
            }
            Membership::query()->create(['project_id' => $invitation->project_id, 'user_id' => $user->id, 'role' => $invitation->role]);
            $invitation->update(['used_at' => now()]);

            return $user;
        });

        return $this->signIn($request, $user, 200);
    }

    private function invitation(string $token): Invitation
    {
        $invitation = Invitation::query()->with('project')->where('token_hash', hash('sha256', $token))->first();
        if ($invitation === null || $invitation->used_at !== null || $invitation->expires_at->isPast()) {
            throw Refusal::because('invitation_over', $invitation?->used_at !== null ? 'this invitation has been used already; ask for a new one' : 'this invitation does not exist or has run out; ask for a new one');
        }

        return $invitation;
    }

    private function signIn(Request $request, User $user, int $status): JsonResponse
    {
        $this->guard()->login($user);
        if ($request->hasSession()) {
            $request->session()->regenerate();
        }
        StillWelcome::begin($request, $user);

        return new JsonResponse($this->shape($user), $status);
    }

    /** @return array<string, mixed> */
    private function shape(User $user): array
    {
        return [
            'id' => $user->id,
            'name' => $user->name,
            'email' => $user->email,
            'is_owner' => $user->is_owner,
            'can_create' => (new Actor($user))->may(Ability::CreateProject, null),
            'settings' => (object) array_filter(array_intersect_key($user->settings, array_flip(['theme', 'keys', ...array_keys(self::NUMBERS), ...self::SWITCHES])), static fn (mixed $value): bool => $value !== []),
        ];
    }

    /**
     * Places of the deck on other keys: every place one of the fifteen, every key once.
     *
     * @param  array<string, mixed>  $keys
     * @return array<string, string>
     */
    private function keys(array $keys): array
    {
        $bound = [];
        foreach ($keys as $place => $key) {
            if (preg_match('/^Key[QWERTASDFGZXCVB]$/D', $place) !== 1 || ! is_string($key) || preg_match('/^(Key[A-Z]|Semicolon|Quote|BracketLeft|BracketRight|Backslash)$/D', $key) !== 1) {
                throw InvalidValue::at("keys.{$place}", $key, 'a place of the deck on a letter or a sign beside the letters');
            }
            $bound[$place] = $key;
        }
        $all = $bound + array_combine($places = array_map(static fn (string $letter): string => "Key{$letter}", str_split('QWERTASDFGZXCVB')), $places);

        return count(array_unique($all)) === count($all) ? $bound : throw InvalidValue::at('keys', implode(', ', array_keys(array_filter(array_count_values($all), static fn (int $n): bool => $n > 1))), 'every key for one place only');
    }

    private function guard(): SessionGuard
    {
        $guard = auth()->guard('web');
        assert($guard instanceof SessionGuard);

        return $guard;
    }

    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }

    private function name(string $name): string
    {
        $name = trim($name);

        return $name !== '' && mb_strlen($name) <= 100 ? $name : throw InvalidValue::at('name', $name, 'a name of 1 to 100 characters');
    }

    private function email(string $email): string
    {
        $email = mb_strtolower(trim($email));

        return filter_var($email, FILTER_VALIDATE_EMAIL) !== false ? $email : throw InvalidValue::at('email', $email, 'an e-mail address');
    }
}
