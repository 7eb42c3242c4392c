<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Where suggestions came from at one time: a model, or label files that were brought in as suggestions.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $created_by
 * @property ?int $import_id
 * @property string $model its name
 * @property ?int $model_id
 * @property ?int $version_id of a learned model: the version that was asked
 * @property ?int $prompt_version_id of a prompt: the version that was asked
 * @property array<string, mixed> $wish `{classes: {theirs: key}, nodes: {class: {theirs: node}}, tags: {theirs: key}, from, own: {key: from}, stays, then}`, of a prompt `{stays}`
 * @property list<int> $items ids, in the order they are done; empty once it has ended
 * @property string $state waiting, working, paused, done, failed, cancelled or taken_back
 * @property int $done
 * @property int $total
 * @property array<string, mixed> $report `{things, said, with, without, kept, failed: [{item, reason}], failed_count, sums: {name: n}}`
 * @property string $error
 * @property ?CarbonImmutable $created_at
 * @property Project $project
 * @property ?ModelRow $asked
 * @property ?PromptVersion $prompt
 */
final class Run extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['wish' => 'array', 'items' => 'array', 'report' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return BelongsTo<ModelRow, $this> */
    public function asked(): BelongsTo
    {
        return $this->belongsTo(ModelRow::class, 'model_id');
    }

    /** @return BelongsTo<PromptVersion, $this> */
    public function prompt(): BelongsTo
    {
        return $this->belongsTo(PromptVersion::class, 'prompt_version_id');
    }
}
