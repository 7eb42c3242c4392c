<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Workflow\Decision;

/**
 * What a reviewer decided on a turn.
 *
 * @property int $id
 * @property int $turn_id
 * @property ?int $reviewer_id
 * @property Decision $decision
 * @property string $reason
 * @property ?CarbonImmutable $taken_back_at
 * @property CarbonImmutable $created_at
 * @property ?User $reviewer
 */
final class DecisionRow extends Model
{
    protected $table = 'decisions';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['decision' => Decision::class, 'taken_back_at' => 'immutable_datetime', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function reviewer(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
