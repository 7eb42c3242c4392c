<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A model tried on accepted items: what it finds held against what is truly there.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $model_id
 * @property ?int $version_id
 * @property ?int $created_by
 * @property string $model its name
 * @property array<string, mixed> $wish `{classes, nodes, tags, from, then}`
 * @property list<int> $items
 * @property string $state waiting, working, done, failed or cancelled
 * @property int $done
 * @property int $total
 * @property string $error
 * @property ?CarbonImmutable $created_at
 * @property Project $project
 * @property ?ModelRow $asked
 */
final class Trial extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['wish' => 'array', 'items' => 'array', 'created_at' => 'immutable_datetime'];
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
}
