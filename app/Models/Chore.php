<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Work on many items that takes longer than somebody waits for an answer: handing out, archiving, facts.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $user_id who asked for it
 * @property string $kind hand_out, withdraw, archive or facts
 * @property array<string, mixed> $input what is to be done, as its kind says
 * @property string $state waiting, working, done, failed or cancelled
 * @property int $done
 * @property int $total
 * @property ?array<string, mixed> $report
 * @property string $error
 * @property CarbonImmutable $created_at
 * @property Project $project
 * @property ?User $user
 */
final class Chore extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['input' => 'array', 'report' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
