<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Turn as Rules;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

/**
 * One person's pass over one item in one assignment and round.
 *
 * @property int $id
 * @property int $project_id
 * @property int $item_id
 * @property ?int $assignment_id null for labels that came in with the data
 * @property Stage $stage
 * @property int $pass
 * @property int $round
 * @property string $layer
 * @property TurnState $state
 * @property ?int $user_id
 * @property ?int $last_user_id who held it before it was given back
 * @property ?CarbonImmutable $leased_until
 * @property bool $preloaded
 * @property ?int $reviewer_id
 * @property ?CarbonImmutable $review_leased_until
 * @property ?CarbonImmutable $reviewed_at
 * @property string $parked_because while it is parked
 * @property int $seconds
 * @property ?CarbonImmutable $submitted_at
 * @property ?CarbonImmutable $decided_at
 * @property ?Assignment $assignment
 * @property Item $item
 * @property ?User $user
 * @property Project $project
 * @property \Illuminate\Database\Eloquent\Collection<int, DecisionRow> $decisions
 */
final class Turn extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['stage' => Stage::class, 'state' => TurnState::class, 'leased_until' => 'immutable_datetime', 'preloaded' => 'bool', 'review_leased_until' => 'immutable_datetime', 'reviewed_at' => 'immutable_datetime', 'submitted_at' => 'immutable_datetime', 'decided_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Assignment, $this> */
    public function assignment(): BelongsTo
    {
        return $this->belongsTo(Assignment::class);
    }

    /** @return BelongsTo<Item, $this> */
    public function item(): BelongsTo
    {
        return $this->belongsTo(Item::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }

    /** @return HasMany<DecisionRow, $this> */
    public function decisions(): HasMany
    {
        return $this->hasMany(DecisionRow::class, 'turn_id');
    }

    /** Turns of items that are not archived. @return Builder<self> */
    public static function present(): Builder
    {
        return self::query()->whereNotExists(static fn ($archived) => $archived->from('items as archived')->whereColumn('archived.id', 'turns.item_id')->whereNotNull('archived.archived_at'));
    }

    /** The turn as the workflow's rules see it. */
    public function value(): Rules
    {
        return new Rules(
            $this->state,
            $this->user_id,
            $this->leased_until !== null && $this->user_id !== null ? new Lease($this->user_id, $this->leased_until) : null,
            $this->reviewed_at !== null,
            $this->assignment === null || $this->assignment->needs_review,
        );
    }

    /** Takes over what a move of the workflow decided. */
    public function follow(Rules $turn): self
    {
        $this->state = $turn->state;
        $this->user_id = $turn->person;
        $this->leased_until = $turn->lease === null ? null : CarbonImmutable::instance($turn->lease->until);

        return $this;
    }

    public function key(): TurnKey
    {
        return new TurnKey($this->assignment_id, $this->stage, $this->pass, $this->round, $this->state);
    }
}
