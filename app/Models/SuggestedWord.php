<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * A tag, or an answer to a question, suggested for an item as a whole.
 *
 * @property string $id
 * @property int $project_id
 * @property int $item_id
 * @property int $layer_id of suggestions
 * @property string $key of the tag or the question
 * @property ?array<string, mixed> $answer null: it is a tag
 * @property ?float $confidence
 * @property CarbonImmutable $created_at
 * @property ?CarbonImmutable $deleted_at
 */
final class SuggestedWord extends Model
{
    public $incrementing = false;

    public $timestamps = false;

    protected $keyType = 'string';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['answer' => 'array', 'confidence' => 'float', 'created_at' => 'immutable_datetime', 'deleted_at' => 'immutable_datetime'];
    }
}
