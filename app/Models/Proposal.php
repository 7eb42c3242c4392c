<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A class or a rule proposed from the bench, and what the manager made of it.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $author_id
 * @property ?int $item_id
 * @property ?int $turn_id
 * @property ?string $mark_id
 * @property string $kind class or rule
 * @property string $name
 * @property string $text
 * @property string $state open, taken or declined
 * @property string $answer
 * @property ?int $answered_by
 * @property ?CarbonImmutable $answered_at
 * @property CarbonImmutable $created_at
 * @property Project $project
 * @property ?Item $item
 * @property ?User $author
 * @property ?User $answerer
 */
final class Proposal extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['answered_at' => 'immutable_datetime', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<Item, $this> */
    public function item(): BelongsTo
    {
        return $this->belongsTo(Item::class);
    }

    /** @return BelongsTo<User, $this> */
    public function author(): BelongsTo
    {
        return $this->belongsTo(User::class, 'author_id');
    }

    /** @return BelongsTo<User, $this> */
    public function answerer(): BelongsTo
    {
        return $this->belongsTo(User::class, 'answered_by');
    }
}
