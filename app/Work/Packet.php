<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Http\Controllers\ProposalController;
use App\Models\DecisionRow;
use App\Models\HandbookVersion;
use App\Models\MarkRow;
use App\Models\Pin;
use App\Models\Proposal;
use App\Models\Turn;
use App\Models\User;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Workflow\TurnState;

/** Everything the bench needs to open an item, in one answer. */
final class Packet
{
    public function __construct(private readonly Turns $turns)
    {
    }

    /** @return array<string, mixed> */
    public function of(Turn $turn, Actor $actor): array
    {
        $item = $turn->item;
        $project = $turn->project;
        $codebook = $project->codebookVersion();
        $me = $actor->user->id;
        $reviewing = $turn->state === TurnState::Submitted && $turn->reviewer_id === $me;
        $chain = Turn::query()->where('item_id', $item->id)->where('assignment_id', $turn->assignment_id)->where('pass', $turn->pass)->pluck('id')->all();
        $marks = MarkRow::query()->where('item_id', $item->id)->whereIn('layer', [$turn->layer, Layer::SUGGESTIONS])->whereNull('deleted_at')->orderBy('id')->get();

        $said = ItemAnswers::id($item->id, $turn->layer);

        return [
            'turn' => [
                'id' => $turn->id,
                'state' => $turn->state->value,
                'round' => $turn->round,
                'pass' => $turn->pass,
                'stage' => $turn->stage->value,
                'mode' => $reviewing ? 'review' : ($turn->user_id === $me && $turn->state === TurnState::Open ? 'label' : 'look'),
                'labeller' => $turn->user === null ? null : ['id' => $turn->user->id, 'name' => $turn->user->name],
                'note' => $turn->assignment->note ?? '',
                'seconds' => $turn->seconds,
                'parked_because' => $turn->parked_because,
                'can_take_back' => $turn->user_id === $me && $turn->state !== TurnState::Open && $turn->reviewed_at === null && $turn->submitted_at !== null,
            ],
            'item' => ItemShape::of($item),
            'project' => ['id' => $project->id, 'name' => $project->name],
            'marks' => array_values($marks->where('layer', $turn->layer)->where('kind', '!=', ItemAnswers::KIND)->map(MarkShape::of(...))->all()),
            'said' => ['id' => $said, 'mark' => $marks->firstWhere('id', $said) === null ? null : MarkShape::of($marks->firstWhere('id', $said))],
            'suggestions' => array_values($marks->where('layer', Layer::SUGGESTIONS)->where('kind', '!=', ItemAnswers::KIND)->map(MarkShape::of(...))->all()),
            'people' => User::query()->whereIn('id', $marks->pluck('author_id')->filter()->unique()->all())->orderBy('name')->get()->map(static fn (User $user): array => ['id' => $user->id, 'name' => $user->name])->all(),
            'pins' => Pin::query()->whereIn('turn_id', $chain)->orderBy('id')->get()->map(static fn (Pin $pin): array => ['id' => $pin->id, 'x' => $pin->x, 'y' => $pin->y, 'mark' => $pin->mark_id, 'text' => $pin->text, 'turn_id' => $pin->turn_id, 'mine' => $pin->author_id === $me])->all(),
            'decisions' => DecisionRow::query()->whereIn('turn_id', $chain)->with('reviewer')->orderBy('id')->get()->map(static fn (DecisionRow $row): array => ['decision' => $row->decision->value, 'reason' => $row->reason, 'by' => $row->reviewer->name ?? '', 'at' => $row->created_at->toIso8601ZuluString()])->all(),
            'questions' => Proposal::query()->where('item_id', $item->id)->where('kind', ProposalController::QUESTION)->with(['author', 'answerer', 'item.asset', 'item.set'])->orderBy('id')->get()->map(ProposalController::shape(...))->all(),
            'seen' => ['cells' => Seen::of($item, $me)->cells, 'zoom' => $project->seen_zoom, 'required' => $project->require_seen],
            'slip_guard' => $project->slip_guard,
            'codebook_version' => $codebook->version,
            'handbook_version' => (int) HandbookVersion::query()->where('project_id', $project->id)->max('version'),
            'findings' => array_map(static fn (Finding $finding): array => $finding->toArray(), $this->turns->findings($turn)),
        ];
    }
}
