<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What a model of a project has learned at one time.
 *
 * @property int $id
 * @property int $model_id
 * @property int $number from 1
 * @property string $state waiting, working, done, failed or cancelled
 * @property int $done in thousandths
 * @property int $accepted items that were accepted when it was begun
 * @property array<string, mixed> $learned `{items, held_out, things: {class: n}, classes, nodes: {class: [key]}, left: {question: why}, seconds}`
 * @property array<string, mixed> $figures `{main: {value, low, high}, items, of: {class or question: figures}}` on what was held out
 * @property ?bool $better than the one in use before it, on the same items; null: not held against any
 * @property ?string $packed
 * @property string $error
 * @property ?CarbonImmutable $created_at
 * @property ModelRow $model
 */
final class ModelVersion extends Model
{
    /** Everything but what it has learned, which is large. */
    public const COLUMNS = ['id', 'model_id', 'number', 'state', 'done', 'accepted', 'learned', 'figures', 'better', 'error', 'created_at'];

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['learned' => 'array', 'figures' => 'array', 'better' => 'bool', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<ModelRow, $this> */
    public function model(): BelongsTo
    {
        return $this->belongsTo(ModelRow::class, 'model_id');
    }
}
