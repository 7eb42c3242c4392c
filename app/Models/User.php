<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Foundation\Auth\User as Authenticatable;
use Laravel\Sanctum\HasApiTokens;

/**
 * A person with a sign-in.
 *
 * @property int $id
 * @property string $name
 * @property string $email
 * @property string $password hashed
 * @property bool $is_owner of the installation
 * @property bool $can_create projects
 * @property bool $is_demo made by the demo; may be signed in by one click
 * @property ?\Carbon\CarbonImmutable $disabled_at since when nobody can sign in with it
 * @property array<string, mixed> $settings
 */
final class User extends Authenticatable
{
    /** @use HasApiTokens<\Laravel\Sanctum\PersonalAccessToken> */
    use HasApiTokens;

    protected $hidden = ['password', 'remember_token'];

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['password' => 'hashed', 'is_owner' => 'bool', 'can_create' => 'bool', 'is_demo' => 'bool', 'disabled_at' => 'immutable_datetime', 'settings' => 'array'];
    }
}
