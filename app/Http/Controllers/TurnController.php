<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Http\VisibleTurn;
use App\Items\MarkShape;
use App\Items\SaidShape;
use App\Models\Layer;
use App\Models\Pin;
use App\Models\Turn;
use App\Models\User;
use App\Support\Refusal;
use App\Work\ApplyEdits;
use App\Work\Checks;
use App\Work\Decisions;
use App\Work\Earlier;
use App\Work\Packet;
use App\Work\Phrases;
use App\Work\Queue;
use App\Work\Resolve;
use App\Work\Seen;
use App\Work\Stations;
use App\Work\SubmitTurn;
use App\Work\TakeTurn;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\People\Ability;
use Skeno\Core\Ulid;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\TurnState;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** The bench's side of the API: take, edit, submit, review. */
final class TurnController
{
    public function __construct(private readonly TakeTurn $take, private readonly SubmitTurn $submit, private readonly Decisions $decisions, private readonly Checks $checks, private readonly Packet $packet, private readonly Queue $queue)
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
        $from = $in->optionalInt('after', 1);
        $after = $from === null ? null : Turn::query()->where('project_id', $project->id)->find($from);
        $turn = match ($purpose) {
            'label' => $this->take->nextToLabel($actor, $project, $holding, $in->bool('preload'), $in->optionalInt('assignment'), $after),
            'review' => $actor->may(Ability::Review, $project) ? $this->take->nextToReview($actor, $project, $holding, $in->bool('preload'), $after) : throw Refusal::because('not_allowed', 'your role does not review'),
            default => throw InvalidValue::at('purpose', $purpose, 'label or review'),
        };

        return new JsonResponse(['packet' => $turn === null ? null : $this->packet->of($turn, $actor)]);
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of(VisibleTurn::of($request), Input::actor($request)));
    }

    public function take(Request $request): JsonResponse
    {
        return new JsonResponse($this->packet->of($this->take->take(Input::actor($request), VisibleTurn::of($request)), Input::actor($request)));
    }

    public function giveBack(Request $request): Response
    {
        $this->take->giveBack(Input::actor($request), VisibleTurn::of($request));

        return new Response('', 204);
    }

    public function edits(Request $request, ApplyEdits $apply): JsonResponse
    {
        $turn = VisibleTurn::of($request);
        $edits = Input::body($request)->list('edits');
        if (count($edits) > ApplyEdits::MOST) {
            throw InvalidValue::at('edits', $edits, 'at most '.ApplyEdits::MOST.' at a time');
        }
        if (count($edits) > 1 && ApplyEdits::points($edits) > ApplyEdits::MOST_POINTS) {
            throw Refusal::because('batch_too_large', 'these edits hold more than '.ApplyEdits::MOST_POINTS.' points together; send fewer at a time');
        }
        $results = $apply(Input::actor($request), $turn, $edits);
        $turn->refresh();

        return new JsonResponse(['results' => $results, 'findings' => $this->findings($turn), 'codebook_version' => $turn->project->codebookVersion()->version, 'seconds' => $turn->seconds]);
    }

    public function submit(Request $request): JsonResponse
    {
        $in = Input::body($request);
        ['turn' => $turn, 'counted' => $counted] = $this->submit->submit(Input::actor($request), VisibleTurn::of($request), $in->bool('nothing'), $in->bool('anyway'));

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value, 'counted' => $counted]);
    }

    /** Sets the item aside; the reason is shown to whoever takes it up, and to the manager. */
    public function park(Request $request): JsonResponse
    {
        $reason = trim(Input::body($request)->string('reason', 1000));
        if ($reason === '') {
            throw InvalidValue::at('reason', '', 'why it is set aside, in a few words');
        }
        $turn = $this->take->park(Input::actor($request), VisibleTurn::of($request), $reason);

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    public function putBack(Request $request): JsonResponse
    {
        $turn = $this->take->putBack(VisibleTurn::of($request));

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    /** Parts of the picture that were on the screen close up. */
    public function seen(Request $request): JsonResponse
    {
        $grid = Seen::add(VisibleTurn::of($request)->item, Input::actor($request)->user->id, Input::body($request)->string('cells', 2000));

        return new JsonResponse(['cells' => $grid->cells, 'share' => $grid->share()]);
    }

    /** A submit is taken back by who submitted, an accept by who accepted or by a manager. */
    public function takeBack(Request $request): JsonResponse
    {
        $turn = VisibleTurn::of($request);
        $actor = Input::actor($request);
        $turn = $turn->stage->decides() ? $this->decisions->takeBack($actor, $turn, $actor->may(Ability::ManageProject, Input::project($request))) : $this->submit->takeBack($actor, $turn);

        return new JsonResponse($this->packet->of($turn, $actor));
    }

    /** A manager gives an unfinished item to a person, or with null to whoever comes. */
    public function pass(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $user = $in->optionalInt('user', 1);
        $to = $user === null ? null : User::query()->find($user) ?? throw InvalidValue::at('user', $user, 'a person of this project');
        $turn = $this->take->pass(VisibleTurn::of($request), $to);

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    /** What several people have labelled without seeing each other's marks, for who decides. */
    public function passes(Request $request, Resolve $resolve): JsonResponse
    {
        $turn = VisibleTurn::of($request);
        if (! $turn->stage->decides()) {
            throw new NotFoundHttpException('there is nothing to resolve here');
        }
        $work = collect(Stations::work($turn))->keyBy('pass');
        $people = User::query()->whereIn('id', $work->pluck('user_id')->filter())->pluck('name', 'id');

        return new JsonResponse(['data' => array_map(static fn (Layer $layer): array => [
            'pass' => (int) $layer->pass,
            'labeller' => $people[$work[$layer->pass]->user_id ?? 0] ?? '',
            'nothing' => $layer->nothing,
            'said' => SaidShape::of($layer),
            'marks' => array_values($layer->marks()->whereNull('deleted_at')->orderBy('id')->get()->map(MarkShape::of(...))->all()),
        ], $resolve->layers($turn))]);
    }

    /** Agrees on marks of the passes: `{pass, marks?}` takes one pass, or these marks of any; `{redo}` sends all passes back with a reason. */
    public function resolve(Request $request, Resolve $resolve): JsonResponse
    {
        $in = Input::body($request);
        $actor = Input::actor($request);
        $redo = $in->optionalString('redo', 2000);
        $turn = $redo !== null
            ? $resolve->redo($actor, VisibleTurn::of($request), $redo)
            : $resolve->agree($actor, VisibleTurn::of($request), $in->int('pass', 1, 20), $in->has('marks') ? $in->list('marks') : null);

        return new JsonResponse($this->packet->of($turn, $actor));
    }

    public function decide(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $decision = Decision::tryFrom($in->string('decision', 10)) ?? throw InvalidValue::at('decision', $in->raw('decision'), 'accept or return');
        $turn = $this->decisions->decide(Input::actor($request), VisibleTurn::of($request), $decision, $in->optionalString('reason', 2000) ?? '');

        return new JsonResponse(['id' => $turn->id, 'state' => $turn->state->value]);
    }

    public function pin(Request $request): JsonResponse
    {
        $turn = VisibleTurn::of($request);
        $actor = Input::actor($request);
        $in = Input::body($request);
        if (! $turn->stage->decides() || $turn->state !== TurnState::Open || $turn->user_id !== $actor->user->id) {
            throw Refusal::because('not_reviewing', 'pins are set while you review the item');
        }
        $text = trim($in->string('text', 1000));
        if ($text === '') {
            throw InvalidValue::at('text', '', 'what is wrong, in a few words');
        }
        $at = $this->anchor($in, $turn->item->extent());
        $pin = Pin::query()->create($at + ['item_id' => $turn->item_id, 'turn_id' => $turn->id, 'author_id' => $actor->user->id, 'mark_id' => $in->has('mark') ? Ulid::check($in->raw('mark'), 'mark') : null, 'text' => $text]);

        return new JsonResponse(['id' => $pin->id, 'x' => $pin->x, 'y' => $pin->y, 'place' => $pin->place, 'offset' => $pin->offset, 'mark' => $pin->mark_id, 'text' => $pin->text, 'turn_id' => $turn->id, 'mine' => true], 201);
    }

    /** @return array<string, int|float|null> where a pin sits: in a text an offset, else a point, at a place of the axis where there is one */
    private function anchor(Fields $in, Extent $on): array
    {
        if ($on->length !== null) {
            return ['x' => null, 'y' => null, 'place' => null, 'offset' => $in->int('offset', 0, max(0, $on->length - 1))];
        }
        if ($on->isSpace) {
            // on the ground, in metres; or at a mark alone
            $metres = static fn (string $key): ?float => ($value = $in->optionalNumber($key)) === null || abs($value) <= 1e8 ? $value : throw InvalidValue::at($key, $value, 'metres');

            return ['x' => $metres('x'), 'y' => $metres('y'), 'place' => $in->int('place', 0, ($on->places ?? 1) - 1), 'offset' => null];
        }
        [$x, $y] = [$in->number('x'), $in->number('y')];
        if ($x < 0 || $y < 0 || $x > $on->width || $y > $on->height) {
            throw InvalidValue::at($x < 0 || $x > $on->width ? 'x' : 'y', $x < 0 || $x > $on->width ? $x : $y, 'a place on the picture');
        }

        return ['x' => $x, 'y' => $y, 'place' => $on->places === null ? null : $in->int('place', 0, $on->places - 1), 'offset' => null];
    }

    public function unpin(Request $request): Response
    {
        $turn = VisibleTurn::of($request);
        if ($turn->state !== TurnState::Open) {
            throw Refusal::because('not_reviewing', 'the item has been decided; its pins stay');
        }
        Pin::query()->where('turn_id', $turn->id)->where('author_id', Input::actor($request)->user->id)->findOrFail(Input::id($request, 'pin'))->delete();

        return new Response('', 204);
    }

    /** The history of a mark of this item: who changed what when. */
    public function history(Request $request): JsonResponse
    {
        return new JsonResponse(['data' => $this->queue->history(VisibleTurn::of($request), $request->route('mark') === 'said' ? null : (string) $request->route('mark'))]);
    }

    /** The marks as they were when the item was last returned. */
    public function earlier(Request $request, Earlier $earlier): JsonResponse
    {
        return new JsonResponse($earlier->of(VisibleTurn::of($request)));
    }

    /** Words that were marked in this project, for the same words in this text. */
    public function phrases(Request $request, Phrases $phrases): JsonResponse
    {
        VisibleTurn::of($request);

        return new JsonResponse(['data' => $phrases->of(Input::actor($request), Input::project($request))]);
    }

    /** The items around this one, for the ribbon. */
    public function queue(Request $request): JsonResponse
    {
        return new JsonResponse($this->queue->around(Input::actor($request), VisibleTurn::of($request)));
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
        $found = $this->queue->find(Input::actor($request), VisibleTurn::of($request), trim($find), $state === '' ? null : $state, $sort);

        return new JsonResponse(['states' => (object) $found['states']] + $found);
    }

    /** @return list<array<string, mixed>> */
    private function findings(Turn $turn): array
    {
        return array_map(static fn (Finding $finding): array => $finding->toArray(), $this->checks->live($turn));
    }
}
