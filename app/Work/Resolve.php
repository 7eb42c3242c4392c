<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Codebooks\Codebooks;
use App\Items\LayerCopy;
use App\Items\Layers;
use App\Models\DecisionRow;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Turn;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Ulid;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\TurnState;

/** Makes agreed labels out of what several people have labelled without seeing each other's marks. */
final class Resolve
{
    /**
     * What was labelled without seeing each other's marks, for who decides on it.
     *
     * @return list<Layer> by pass
     */
    public function layers(Turn $turn): array
    {
        return array_values(Layer::query()->where('item_id', $turn->item_id)->where('assignment_id', $turn->assignment_id)->where('kind', LayerKind::Blind)->orderBy('pass')->get()->all());
    }

    /**
     * Agrees on marks of these layers: all of one pass (take), or some of several (merge). What was agreed before is replaced.
     *
     * @param  list<mixed>|null  $marks  ids, or null: all of the pass
     * @param  int  $pass  whose sayings are taken; of a take also the marks
     */
    public function agree(Actor $actor, Turn $turn, int $pass, ?array $marks): Turn
    {
        $ids = [];
        foreach ($marks ?? [] as $i => $id) {
            $ids[] = Ulid::check($id, "marks[{$i}]");
        }

        return DB::transaction(function () use ($actor, $turn, $pass, $marks, $ids): Turn {
            Codebooks::mustBeSteady($turn->project_id);
            $turn->refresh();
            $this->mustHold($actor, $turn);
            $layers = $this->layers($turn);
            $said = array_values(array_filter($layers, static fn (Layer $layer): bool => $layer->pass === $pass))[0] ?? throw InvalidValue::at('pass', $pass, 'a pass of this item: '.implode(', ', array_map(static fn (Layer $layer): string => (string) $layer->pass, $layers)));
            $from = MarkRow::query()->whereNull('deleted_at')->orderBy('id');
            $found = $marks === null ? $from->where('layer_id', $said->id)->get() : $from->whereIn('layer_id', array_column($layers, 'id'))->whereIn('id', $ids)->get();
            foreach (array_diff($ids, $found->modelKeys()) as $i => $id) {
                throw InvalidValue::at("marks[{$i}]", $id, 'a mark of one of the passes');
            }
            $agreed = Layers::agreed($turn->item_id);
            LayerCopy::clear($agreed, 'resolve', $actor->user);
            LayerCopy::marks($found, $agreed, 'resolve', $actor->user);
            LayerCopy::said($said, $agreed, 'resolve', $actor->user);
            Layers::sayNothing($agreed, $agreed->mark_count === 0);

            return $turn->refresh();
        });
    }

    /** All passes label the item once more, each its own work. */
    public function redo(Actor $actor, Turn $turn, string $reason): Turn
    {
        if (trim($reason) === '') {
            throw Refusal::because('reason_missing', 'say what is wrong, in words or by a pin on the picture');
        }

        return DB::transaction(function () use ($actor, $turn, $reason): Turn {
            $turn->refresh();
            $this->mustHold($actor, $turn);
            $turn = Moves::to($turn, $turn->value()->decide(Decision::Return, $actor->user->id), ['decided_at' => now()]);
            DecisionRow::query()->create(['turn_id' => $turn->id, 'reviewer_id' => $actor->user->id, 'decision' => Decision::Return, 'reason' => trim($reason)]);
            foreach (Stations::work($turn) as $pass) {
                Moves::to($pass, $pass->value()->settle(Decision::Return), ['decided_at' => now()]);
            }

            return $turn->refresh();
        });
    }

    private function mustHold(Actor $actor, Turn $turn): void
    {
        if (! $turn->stage->decides() || ! Stations::isOverlapped($turn->assignment)) {
            throw Refusal::because('not_overlapped', 'one person has labelled this item, so there is nothing to resolve');
        }
        if ($turn->state !== TurnState::Open || $turn->user_id !== $actor->user->id) {
            throw Refusal::because('not_reviewing', 'open the item for review first');
        }
    }
}
