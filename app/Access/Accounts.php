<?php

declare(strict_types=1);

namespace App\Access;

use App\Models\Membership;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Role;

/** Accounts of the installation: new passwords by a link, rights, and accounts that are switched off. */
final class Accounts
{
    /** Hours a link for a new password works. */
    private const HOURS = 24;

    private const SHORTEST = 10;

    /** @throws InvalidValue when it is too short */
    public static function password(string $password, string $field): string
    {
        return mb_strlen($password) >= self::SHORTEST ? $password : throw InvalidValue::at($field, str_repeat('•', mb_strlen($password)), 'at least '.self::SHORTEST.' characters');
    }

    /**
     * A token that lets a person set a new password once; the ones before it end.
     *
     * @param  ?User  $by  null: by command
     */
    public function passwordLink(User $user, ?User $by): string
    {
        if ($by !== null && ! $by->is_owner) {
            $this->mustBeOnlyOf($user, $by);
        }
        $token = Str::random(40);
        DB::transaction(static function () use ($user, $by, $token): void {
            DB::table('password_links')->where('user_id', $user->id)->delete();
            DB::table('password_links')->insert(['user_id' => $user->id, 'created_by' => $by?->id, 'token_hash' => hash('sha256', $token), 'expires_at' => now()->addHours(self::HOURS), 'created_at' => now()]);
        });

        return $token;
    }

    /** Who a link is for. */
    public function ofLink(string $token): User
    {
        $id = DB::table('password_links')->where('token_hash', hash('sha256', $token))->where('expires_at', '>', now())->value('user_id');

        return User::query()->whereNull('disabled_at')->find($id) ?? throw Refusal::because('link_over', 'this link has been used, or has run out; ask for a new one');
    }

    public function setPassword(string $token, string $password): User
    {
        return DB::transaction(function () use ($token, $password): User {
            $user = $this->ofLink($token);
            $user->update(['password' => self::password($password, 'password'), 'remember_token' => Str::random(60)]);
            $user->tokens()->delete();
            DB::table('password_links')->where('user_id', $user->id)->delete();

            return $user;
        });
    }

    /** @param  array{can_create?: bool, is_owner?: bool, disabled?: bool}  $change */
    public function change(User $user, array $change): User
    {
        return DB::transaction(static function () use ($user, $change): User {
            $user->refresh();
            $user->fill(array_intersect_key($change, ['can_create' => 1, 'is_owner' => 1]));
            if (isset($change['disabled'])) {
                $user->disabled_at = $change['disabled'] ? $user->disabled_at ?? now()->toImmutable() : null;
                if ($change['disabled']) {
                    $user->tokens()->delete();
                    DB::table('password_links')->where('user_id', $user->id)->delete();
                }
            }
            $user->save();
            // counted while nobody else can write, so that two owners can't step down at once
            if (User::query()->where('is_owner', true)->whereNull('disabled_at')->doesntExist()) {
                throw Refusal::because('last_owner', 'an installation needs an owner; make somebody else owner first');
            }

            return $user;
        });
    }

    /** A manager must not come into other projects by the account of one of their people. */
    private function mustBeOnlyOf(User $user, User $manager): void
    {
        $mine = Membership::query()->where('user_id', $manager->id)->where('role', Role::Manager)->select('project_id');
        if ($user->is_owner || $user->can_create || Membership::query()->where('user_id', $user->id)->whereNotIn('project_id', $mine)->exists()) {
            throw Refusal::because('not_allowed', "{$user->name} works in projects that are not yours too; the owner of the installation makes this link");
        }
    }
}
