<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\Proposal;
use App\Models\Turn;
use App\Support\Refusal;
use App\Work\ProposalShape;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Ability;
use Skeno\Core\Ulid;

/** Classes and rules proposed and questions asked from the bench. A manager sees and answers all, a reviewer the questions; others see their own. */
final class ProposalController
{
    private const STATES = ['open', 'taken', 'declined'];

    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $found = Proposal::query()->where('project_id', $project->id)->with(['author', 'answerer', 'item.asset', 'item.set'])
            ->when(! $actor->may(Ability::ManageProject, $project), static fn ($query) => $query->where(static fn ($seen) => $seen->where('author_id', $actor->user->id)->when($actor->may(Ability::Review, $project), static fn ($query) => $query->orWhere('kind', ProposalShape::QUESTION))))
            ->orderByRaw("case state when 'open' then 0 else 1 end")->orderByDesc('id')->limit(200)->get();

        return new JsonResponse(['data' => $found->map(ProposalShape::of(...))->all()]);
    }

    public function store(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $in = Input::body($request);
        $kind = $in->string('kind', 10);
        if (! in_array($kind, ['class', 'rule', ProposalShape::QUESTION], true)) {
            throw InvalidValue::at('kind', $kind, 'class, rule or question');
        }
        $name = trim($in->optionalString('name', 80) ?? '');
        $text = trim($in->string('text', 2000));
        if ($kind === 'class' && $name === '') {
            throw InvalidValue::at('name', $name, 'what the class would be called');
        }
        if ($kind === 'rule' && $text === '') {
            throw InvalidValue::at('text', $text, 'the rule in a sentence');
        }
        if ($kind === ProposalShape::QUESTION && ($text === '' || ! $in->has('turn'))) {
            throw InvalidValue::at($text === '' ? 'text' : 'turn', null, $text === '' ? 'what is asked' : 'the turn it is asked from');
        }
        $turn = $in->optionalInt('turn', 1);
        // only work of one's own can be pointed at
        $turn = $turn === null ? null : Turn::query()->where('project_id', $project->id)->whereKey($turn)->where(static fn ($query) => $query->where('user_id', $actor->user->id)->orWhere('last_user_id', $actor->user->id)->orWhere('reviewer_id', $actor->user->id))->first()
            ?? throw InvalidValue::at('turn', $turn, 'a turn of yours');
        $proposal = Proposal::query()->create([
            'project_id' => $project->id, 'author_id' => $actor->user->id, 'turn_id' => $turn?->id, 'item_id' => $turn?->item_id, 'mark_id' => $in->has('mark') ? Ulid::check($in->raw('mark'), 'mark') : null,
            'kind' => $kind, 'name' => $name, 'text' => $text,
        ])->refresh();

        return new JsonResponse(ProposalShape::of($proposal), 201);
    }

    /** The manager's word on it; an answer can be changed. */
    public function answer(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $project = Input::project($request);
        $proposal = Proposal::query()->where('project_id', $project->id)->findOrFail(Input::id($request, 'proposal'));
        if ($proposal->kind !== ProposalShape::QUESTION && ! Input::actor($request)->may(Ability::ManageProject, $project)) {
            throw Refusal::because('not_allowed', 'classes and rules are the manager\'s to decide');
        }
        $state = $in->string('state', 10);
        if (! in_array($state, self::STATES, true)) {
            throw InvalidValue::at('state', $state, implode(', ', self::STATES));
        }
        $proposal->update(['state' => $state, 'answer' => trim($in->optionalString('answer', 2000) ?? ''), 'answered_by' => $state === 'open' ? null : Input::actor($request)->user->id, 'answered_at' => $state === 'open' ? null : now()]);

        return new JsonResponse(ProposalShape::of($proposal->refresh()));
    }
}
