<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\People\Role;

/**
 * A person's role in a project.
 *
 * @property int $id
 * @property int $project_id
 * @property int $user_id
 * @property Role $role
 * @property User $user
 */
final class Membership extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['role' => Role::class];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }
}
