<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Http\Refusal;
use App\Models\Pin;
use App\Models\Turn;
use App\Work\ApplyEdits;
use App\Work\Compute;
use App\Work\Packet;
use App\Work\Queue;
use App\Work\Seen;
use App\Work\Turns;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Ulid;
use Skeno\Core\People\Ability;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\TurnState;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** The bench's side of the API: take, edit, submit, review. */
final class TurnController
{
    public function __construct(private readonly Turns $turns, private readonly Packet $packet, private readonly Queue $queue)
    {
    }

    /** The next item to label or review, leased to the person; `{turn: null}` when there is none. */
    public function next(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $actor = Input::actor($request);
        $project = Input::project($request);
        $holding = [];
        foreach ($in->list('holding') as $i => $id) {
            $holding[] = is_int($id) ? $id : throw InvalidValue::at("holding[{$i}]", $id, 'the id of a turn');
        }
        $purpose = $in->optionalString('purpose', 10) ?? 'label';
        $turn = match ($purpose) {
            'label' => $this->turns->nextToLabel($actor, $project, $holding, $in->bool('preload'), $in->optionalInt('assignment')),
            'review' => $actor->may(Ability::Review, $project) ? $this->turns->nextToReview($actor, $project, $holding, $in->bool('preload')) : throw Refusal::because('not_allowed', 'your role does not review', 403),
            default => throw InvalidValue::at('purpose', $purpose, 'label or review'),
        };

        return new JsonResponse(['packet' => $turn === null ? null : $this->packet->of($turn, $actor)]);
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of($this->visible($request), Input::actor($request)));
    }

    public function take(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of($this->turns->take(Input::actor($request), $this->visible($request)), Input::actor($request)));
    }

    public function giveBack(Request $request): Response
    {
        $this->turns->giveBack(Input::actor($request), $this->visible($request));

        return new Response('', 204);
    }

    public function edits(Request $request, ApplyEdits $apply): JsonResponse
    {
        $turn = $this->visible($request);
        $edits = Input::body($request)->list('edits');
        if (count($edits) > ApplyEdits::MOST) {
            throw InvalidValue::at('edits', $edits, 'at most '.ApplyEdits::MOST.' at a time');
        }
        if (count($edits) > 1 && ApplyEdits::points($edits) > ApplyEdits::MOST_POINTS) {
            throw Refusal::because('batch_too_large', 'these edits hold more than '.ApplyEdits::MOST_POINTS.' points together; send fewer at a time', 413);
        }
        $results = $apply(Input::actor($request), $turn, $edits);
        $turn->refresh();

        return new JsonResponse(['results' => $results, 'findings' => $this->findings($turn), 'codebook_version' => $turn->project->codebookVersion()->version, 'seconds' => $turn->seconds]);
    }

    public function submit(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $turn = $this->turns->submit(Input::actor($request), $this->visible($request), $in->bool('nothing'), $in->bool('anyway'));

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    /** Sets the item aside; the reason is shown to whoever takes it up, and to the manager. */
    public function park(Request $request): JsonResponse
    {
        $reason = trim(Input::body($request)->string('reason', 1000));
        if ($reason === '') {
            throw InvalidValue::at('reason', '', 'why it is set aside, in a few words');
        }
        $turn = $this->turns->park(Input::actor($request), $this->visible($request), $reason);

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    public function putBack(Request $request): JsonResponse
    {
        $turn = $this->turns->putBack($this->visible($request));

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    /** Parts of the picture that were on the screen close up. */
    public function seen(Request $request): JsonResponse
    {
        $grid = Seen::add($this->visible($request)->item, Input::actor($request)->user->id, Input::body($request)->string('cells', 2000));

        return new JsonResponse(['cells' => $grid->cells, 'share' => $grid->share()]);
    }

    public function takeBack(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of($this->turns->takeBack(Input::actor($request), $this->visible($request)), Input::actor($request)));
    }

    public function openReview(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of($this->turns->openReview(Input::actor($request), $this->visible($request)), Input::actor($request)));
    }

    public function decide(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $decision = Decision::tryFrom($in->string('decision', 10)) ?? throw InvalidValue::at('decision', $in->raw('decision'), 'accept or return');
        $turn = $this->turns->decide(Input::actor($request), $this->visible($request), $decision, $in->optionalString('reason', 2000) ?? '');

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    public function pin(Request $request): JsonResponse
    {
        $turn = $this->visible($request);
        $actor = Input::actor($request);
        $in = Input::body($request);
        if ($turn->state !== TurnState::Submitted || $turn->reviewer_id !== $actor->user->id) {
            throw Refusal::because('not_reviewing', 'pins are set while you review the item');
        }
        $text = trim($in->string('text', 1000));
        $asset = $turn->item->asset;
        [$x, $y] = [$in->number('x'), $in->number('y')];
        if ($text === '' || $x < 0 || $y < 0 || $x > $asset->width || $y > $asset->height) {
            throw $text === '' ? InvalidValue::at('text', '', 'what is wrong, in a few words') : InvalidValue::at($x < 0 || $x > $asset->width ? 'x' : 'y', $x < 0 || $x > $asset->width ? $x : $y, 'a place on the picture');
        }
        $pin = Pin::query()->create(['item_id' => $turn->item_id, 'turn_id' => $turn->id, 'author_id' => $actor->user->id, 'mark_id' => $in->has('mark') ? Ulid::check($in->raw('mark'), 'mark') : null, 'x' => $x, 'y' => $y, 'text' => $text]);

        return new JsonResponse(['id' => $pin->id, 'x' => $pin->x, 'y' => $pin->y, 'mark' => $pin->mark_id, 'text' => $pin->text, 'turn_id' => $turn->id, 'mine' => true], 201);
    }

    public function unpin(Request $request): Response
    {
        $turn = $this->visible($request);
        if ($turn->state !== TurnState::Submitted) {
            throw Refusal::because('not_reviewing', 'the item has been decided; its pins stay');
        }
        Pin::query()->where('turn_id', $turn->id)->where('author_id', Input::actor($request)->user->id)->findOrFail(Input::id($request, 'pin'))->delete();

        return new Response('', 204);
    }

    /** The history of a mark of this item: who changed what when. */
    public function history(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => $this->queue->history($this->visible($request), (string) $request->route('mark'))]);
    }

    /** The items around this one, for the ribbon. */
    public function queue(Request $request): JsonResponse
    {
        return new JsonResponse($this->queue->around(Input::actor($request), $this->visible($request)));
    }

    /** Items of the queue by number or name and by state: `find?`, `state?`, `sort?` (name, state, time). */
    public function find(Request $request): JsonResponse
    {
        [$find, $state, $sort] = [$request->query('find', ''), $request->query('state', ''), $request->query('sort', 'name')];
        if ($state !== '' && (! is_string($state) || TurnState::tryFrom($state) === null)) {
            throw InvalidValue::at('state', $state, implode(', ', array_column(TurnState::cases(), 'value')));
        }
        if (! in_array($sort, ['name', 'state', 'time'], true)) {
            throw InvalidValue::at('sort', $sort, 'name, state or time');
        }
        if (! is_string($find) || strlen($find) > 200) {
            throw InvalidValue::at('find', $find, 'a number or a part of a name');
        }
        $found = $this->queue->find(Input::actor($request), $this->visible($request), trim($find), $state === '' ? null : $state, $sort);

        return new JsonResponse(['states' => (object) $found['states']] + $found);
    }

    /** A shape made from another, or what is to be seen around it: nothing is stored. */
    public function compute(Request $request, Compute $compute): JsonResponse
    {
        return new JsonResponse($compute($this->visible($request), Input::body($request)));
    }

    /** @return list<array<string, mixed>> */
    private function findings(Turn $turn): array
    {
        return array_map(static fn (Finding $finding): array => $finding->toArray(), $this->turns->findings($turn));
    }

    /** A turn the person may see: their own, one handed out to them, one they review; managers see all. */
    private function visible(Request $request): Turn
    {
        $project = Input::project($request);
        $actor = Input::actor($request);
        $turn = Turn::query()->where('project_id', $project->id)->with(['item.asset', 'item.set', 'assignment', 'user', 'project'])->findOrFail(Input::id($request, 'turn'));
        $me = $actor->user->id;
        $part = $turn->assignment_id === null ? collect() : $turn->assignment->people()->where('user_id', $me)->pluck('part');
        $ok = $turn->user_id === $me || $turn->last_user_id === $me
            || $actor->may(Ability::ManageProject, $project)
            || $part->contains('reviewer')
            // what waits for anybody of the assignment, and what is open elsewhere (to be told so), but not others' finished work
            || ($part->contains('labeller') && in_array($turn->state, [TurnState::Waiting, TurnState::Open], true));

        return $ok ? $turn : throw new NotFoundHttpException('there is no such turn');
    }
}
