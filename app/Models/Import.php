<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Fields;
use Skeno\Core\Items\Wish;

/**
 * Files brought in together.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $user_id
 * @property string $state receiving, working, done, failed or cancelled
 * @property int $done pictures read so far, while labels are taken in
 * @property bool $again
 * @property array<string, mixed> $options
 * @property ?array<string, mixed> $labels
 * @property list<array{format: string, label: string, files: int}> $noticed label files lying beside the pictures
 * @property string $error
 * @property CarbonImmutable $created_at
 * @property Project $project
 * @property ?User $user
 */
final class Import extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['again' => 'bool', 'options' => 'array', 'labels' => 'array', 'noticed' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** Whether its files are read together, once all of them are here: files of labels, or of many texts. */
    public function isOfLabels(): bool
    {
        return $this->options !== [] && ! isset($this->options['files']);
    }

    /** How its files are to be taken. */
    public function wish(): Wish
    {
        return Wish::fromFields(Fields::of($this->options['files'] ?? [], 'files'));
    }

    /** @return HasMany<ImportFile, $this> */
    public function files(): HasMany
    {
        return $this->hasMany(ImportFile::class);
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
