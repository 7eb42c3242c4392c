<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\ItemStates;
use App\Models\Turn;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Turn as Rules;
use Skeno\Core\Workflow\TurnState;

/**
 * Changes the state of turns. Each change is one conditional statement: it takes place only from the state it was decided on, whoever
 * was at it meanwhile.
 */
final class Moves
{
    /**
     * @param  array<string, mixed>  $more  columns that change with it
     *
     * @throws IllegalMove when the turn is no longer as it was read
     */
    public static function to(Turn $turn, Rules $next, array $more = []): Turn
    {
        $moved = Turn::query()->whereKey($turn->id)->where('state', $turn->getRawOriginal('state'))->where('user_id', $turn->getRawOriginal('user_id'))->update([
            'state' => $next->state,
            'user_id' => $next->person,
            'leased_until' => $next->lease === null ? null : CarbonImmutable::instance($next->lease->until),
        ] + $more);
        if ($moved === 0) {
            throw IllegalMove::because('turn_moved', 'somebody else has moved this item on meanwhile; look at it again');
        }
        ItemStates::refresh([$turn->item_id]);

        return $turn->refresh();
    }

    /**
     * Gives back what leases that ran out still hold: in one statement from the very state it looks for, so that a turn renewed, submitted
     * or decided meanwhile is left alone.
     *
     * @return int how many
     */
    public static function giveBackExpired(?int $project = null): int
    {
        $expired = static fn () => DB::table('turns')->where('state', TurnState::Open->value)->where('leased_until', '<=', now())->when($project !== null, static fn ($query) => $query->where('project_id', $project));
        if ($expired()->doesntExist()) {
            return 0;
        }

        return DB::transaction(static function () use ($expired): int {
            $rows = $expired()->get(['id', 'item_id']);
            foreach ($rows->pluck('id')->chunk(ItemStates::CHUNK) as $some) {
                $expired()->whereIn('id', $some->all())->update([
                    'state' => TurnState::Waiting->value,
                    // work that came back to its labeller stays theirs; a first round, or a decision, may go to anybody
                    'last_user_id' => DB::raw('user_id'),
                    'user_id' => DB::raw("case when stage = '".Stage::Label->value."' and round > 1 then user_id end"),
                    'leased_until' => null,
                    'preloaded' => false,
                    'updated_at' => now(),
                ]);
            }
            ItemStates::refresh(array_values($rows->pluck('item_id')->map(static fn (mixed $id): int => (int) $id)->all()));

            return $rows->count();
        });
    }

    /** The round after a returned one, for the same person. */
    public static function nextRound(Turn $returned): Turn
    {
        $next = Turn::query()->create([
            'project_id' => $returned->project_id, 'item_id' => $returned->item_id, 'assignment_id' => $returned->assignment_id, 'station_id' => $returned->station_id, 'layer_id' => $returned->layer_id,
            'stage' => $returned->stage, 'pass' => $returned->pass, 'round' => $returned->round + 1, 'beside' => $returned->beside, 'state' => TurnState::Waiting, 'user_id' => $returned->user_id, 'place' => $returned->place,
        ])->refresh();
        Turn::query()->where('item_id', $returned->item_id)->where('assignment_id', $returned->assignment_id)->where('pass', $returned->pass)->where('round', $returned->round)->update(['followed' => true]);
        ItemStates::refresh([$returned->item_id]);

        return $next;
    }
}
