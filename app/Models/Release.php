<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * A frozen, numbered snapshot of a project.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $created_by
 * @property int $number
 * @property string $state waiting, working, done or failed
 * @property string $note
 * @property array<string, mixed> $recipe
 * @property ?array<string, mixed> $census
 * @property int $codebook_version
 * @property ?string $sha256 of the snapshot
 * @property string $error
 * @property CarbonImmutable $created_at
 * @property Project $project
 * @property ?User $author
 * @property \Illuminate\Database\Eloquent\Collection<int, Edition> $editions
 */
final class Release extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['recipe' => 'array', 'census' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<User, $this> */
    public function author(): BelongsTo
    {
        return $this->belongsTo(User::class, 'created_by');
    }

    /** @return HasMany<Edition, $this> */
    public function editions(): HasMany
    {
        return $this->hasMany(Edition::class);
    }
}
