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
 * One person's stay at one station with one item in one round. Its state is changed by the moves of the Work module only.
 *
 * @property int $id
 * @property int $project_id
 * @property int $item_id
 * @property ?int $assignment_id null for labels that came in with the data
 * @property ?int $station_id null where no assignment has one: managers decide
 * @property int $layer_id where its marks stand
 * @property Stage $stage
 * @property int $pass which of several people who label the same item, from 1
 * @property int $round from 1
 * @property int $place where it comes in its queue, before the order in which items came in
 * @property bool $followed a later round has taken its place
 * @property bool $beside a pass over accepted labels, which stand as they are until it is accepted itself
 * @property TurnState $state
 * @property ?int $user_id
 * @property ?int $last_user_id who held it before it was given back; of a decision that waits: who returned the round before
 * @property ?CarbonImmutable $leased_until
 * @property bool $preloaded
 * @property ?CarbonImmutable $opened_at when it was first on somebody's screen
 * @property string $parked_because while it is parked
 * @property string $reopened_because why accepted work is looked at again
 * @property int $seconds
 * @property ?CarbonImmutable $submitted_at
 * @property ?CarbonImmutable $decided_at
 * @property CarbonImmutable $created_at
 * @property ?Assignment $assignment
 * @property Item $item
 * @property Layer $layer
 * @property ?User $user
 * @property Project $project
 * @property \Illuminate\Database\Eloquent\Collection<int, DecisionRow> $decisions
 */
final class Turn extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['stage' => Stage::class, 'state' => TurnState::class, 'leased_until' => 'immutable_datetime', 'preloaded' => 'bool', 'followed' => 'bool', 'beside' => 'bool', 'opened_at' => 'immutable_datetime', 'submitted_at' => 'immutable_datetime', 'decided_at' => 'immutable_datetime', 'created_at' => 'immutable_datetime'];
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

    /** @return BelongsTo<Layer, $this> */
    public function layer(): BelongsTo
    {
        return $this->belongsTo(Layer::class);
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

    /**
     * The last rounds of items that are not archived.
     *
     * @param  ?int  $project  only of this one; what is archived there is looked up once, which is quicker where many turns are counted
     * @param  ?int  $station  of the project; only there, which an index alone can count
     * @return Builder<self>
     */
    public static function present(?int $project = null, ?int $station = null): Builder
    {
        $present = self::query()->where('turns.followed', false);
        if ($project === null) {
            return $present->whereNotExists(static fn ($archived) => $archived->from('items as archived')->whereColumn('archived.id', 'turns.item_id')->whereNotNull('archived.archived_at'));
        }

        return self::notArchived($present->where($station === null ? 'turns.project_id' : 'turns.station_id', $station ?? $project), $project);
    }

    /**
     * Without those on archived items of a project, which are looked up once.
     *
     * @param  Builder<self>  $turns
     * @return Builder<self>
     */
    public static function notArchived(Builder $turns, int $project): Builder
    {
        return $turns->whereNotIn('turns.item_id', static fn ($archived) => $archived->from('items')->where('items.project_id', $project)->whereNotNull('items.archived_at')->select('items.id'));
    }

    /** All turns over the same item in the same assignment, whatever stage, pass and round. @return Builder<self> */
    public function chain(): Builder
    {
        return self::query()->where('item_id', $this->item_id)->where('assignment_id', $this->assignment_id);
    }

    /** The turn as the workflow's rules see it. */
    public function value(): Rules
    {
        return new Rules($this->stage, $this->state, $this->user_id, $this->leased_until !== null && $this->user_id !== null ? new Lease($this->user_id, $this->leased_until) : null);
    }

    /** Whether somebody has it open now. */
    public function isHeld(): bool
    {
        return $this->state === TurnState::Open && $this->leased_until !== null && $this->leased_until->isFuture();
    }

    public function key(): TurnKey
    {
        return new TurnKey($this->assignment_id, $this->stage, $this->pass, $this->round, $this->state, $this->beside);
    }
}
