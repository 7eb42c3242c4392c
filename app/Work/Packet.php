<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Help\FitSkeleton;
use App\Items\ItemShape;
use App\Items\Keys;
use App\Items\MarkShape;
use App\Items\SaidShape;
use App\Items\Suggested;
use App\Models\DecisionRow;
use App\Models\HandbookVersion;
use App\Models\MarkRow;
use App\Models\Pin;
use App\Models\Proposal;
use App\Models\Turn;
use App\Models\User;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Workflow\TurnState;

/** Everything the bench needs to open an item, in one answer. */
final class Packet
{
    public function __construct(private readonly Checks $checks)
    {
    }

    /** @return array<string, mixed> */
    public function of(Turn $turn, Actor $actor): array
    {
        $item = $turn->item;
        $project = $turn->project;
        $codebook = $project->codebookVersion();
        $me = $actor->user->id;
        $mine = $turn->user_id === $me && $turn->state === TurnState::Open;
        $work = $turn->stage->decides() ? Stations::work($turn) : [$turn];
        $chain = $turn->chain()->where(static fn ($query) => $query->where('pass', $turn->pass)->orWhere('stage', '!=', 'label'))->pluck('id')->all();
        $marks = MarkRow::query()->where('layer_id', $turn->layer_id)->whereNull('deleted_at')->orderBy('id')->get();
        $suggestions = Suggested::marks($item->id, $turn->layer_id);
        $people = User::query()->whereIn('id', [...$marks->pluck('author_id')->filter()->unique()->all(), ...array_filter(array_column($work, 'user_id')), ...array_filter([$turn->user_id])])->orderBy('name')->get()->keyBy('id');
        $person = static fn (?int $id): ?array => $id === null || ! $people->has($id) ? null : ['id' => $id, 'name' => $people[$id]->name];
        $authors = $marks->pluck('author_id')->filter()->unique()->all();

        return [
            'turn' => [
                'id' => $turn->id,
                'state' => $turn->state->value,
                'round' => $turn->round,
                'pass' => $turn->pass,
                'stage' => $turn->stage->value,
                'mode' => ! $mine ? 'look' : ($turn->stage->decides() ? 'review' : 'label'),
                'labeller' => count($work) === 1 ? $person($work[0]->user_id) : null,
                'held_by' => $turn->isHeld() && ! $mine ? $person($turn->user_id) : null,
                'note' => $turn->assignment->note ?? '',
                'seconds' => $turn->seconds,
                'beside' => $turn->beside,
                'parked_because' => $turn->parked_because,
                'reopened_because' => $work[0]->reopened_because ?? '',
                'can_take_back' => $this->canBeTakenBack($turn, $me),
            ],
            'item' => ItemShape::of($item),
            'facts' => (object) $item->facts,
            'project' => ['id' => $project->id, 'name' => $project->name],
            'marks' => array_values($marks->map(MarkShape::of(...))->all()),
            'keys' => $item->places() === null ? [] : Keys::shapes($turn->layer->id),
            'said' => SaidShape::of($turn->layer),
            'suggestions' => array_values($suggestions->map(MarkShape::of(...))->all()),
            'sure_from' => $turn->stage->decides() || $item->kind !== 'picture' ? null : $turn->assignment?->sureFrom(),
            'suggested_words' => Suggested::words($item->id, $turn->layer_id, $codebook->codebook()),
            'people' => array_values($people->whereIn('id', $authors)->map(static fn (User $user): array => ['id' => $user->id, 'name' => $user->name])->all()),
            'pins' => Pin::query()->whereIn('turn_id', $chain)->orderBy('id')->get()->map(static fn (Pin $pin): array => ['id' => $pin->id, 'x' => $pin->x, 'y' => $pin->y, 'place' => $pin->place, 'offset' => $pin->offset, 'mark' => $pin->mark_id, 'text' => $pin->text, 'turn_id' => $pin->turn_id, 'mine' => $pin->author_id === $me])->all(),
            'decisions' => DecisionRow::query()->whereIn('turn_id', $chain)->whereNull('taken_back_at')->with('reviewer')->orderBy('id')->get()->map(static fn (DecisionRow $row): array => ['decision' => $row->decision->value, 'reason' => $row->reason, 'by' => $row->reviewer->name ?? '', 'at' => $row->created_at->toIso8601ZuluString()])->all(),
            'questions' => Proposal::query()->where('item_id', $item->id)->where('kind', ProposalShape::QUESTION)->with(['author', 'answerer', 'item.asset', 'item.set'])->orderBy('id')->get()->map(ProposalShape::of(...))->all(),
            'seen' => ['cells' => Seen::of($item, $me)->cells, 'zoom' => $project->seen_zoom, 'required' => $project->require_seen && $item->kind === 'picture'],
            'fits' => FitSkeleton::classes($project),
            'slip_guard' => $project->slip_guard,
            'codebook_version' => $codebook->version,
            'handbook_version' => (int) HandbookVersion::query()->where('project_id', $project->id)->max('version'),
            'findings' => array_map(static fn (Finding $finding): array => $finding->toArray(), $this->checks->findings($turn)),
        ];
    }

    /** Whether this person has submitted or accepted it and nobody has looked at that since. */
    private function canBeTakenBack(Turn $turn, int $me): bool
    {
        if ($turn->user_id !== $me || $turn->followed) {
            return false;
        }
        if ($turn->stage->decides()) {
            return $turn->state === TurnState::Accepted && ! $turn->beside;
        }

        return in_array($turn->state, [TurnState::Submitted, TurnState::Accepted], true) && $turn->submitted_at !== null && Stations::decision($turn)?->opened_at === null;
    }
}
