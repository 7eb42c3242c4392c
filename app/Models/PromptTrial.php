<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A version of a prompt tried on accepted texts.
 *
 * @property int $id
 * @property int $project_id
 * @property int $prompt_version_id
 * @property ?int $created_by
 * @property list<int> $items
 * @property string $state waiting, working, done, failed or cancelled
 * @property int $done
 * @property int $total
 * @property string $error
 * @property ?CarbonImmutable $created_at
 * @property Project $project
 * @property PromptVersion $version
 */
final class PromptTrial extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['items' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<PromptVersion, $this> */
    public function version(): BelongsTo
    {
        return $this->belongsTo(PromptVersion::class, 'prompt_version_id');
    }
}
