<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Turn;
use App\Projects\Codebooks;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Edit;
use Skeno\Core\Marks\EditAction;
use Skeno\Core\Marks\EditOutcome;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\Remap;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

/**
 * Applies a batch of edits in order, each once: a repeat changes nothing, a stale base is a conflict shown with what is there,
 * an edit that can't be is refused by name, and none of these stops the others.
 */
final class ApplyEdits
{
    public const MOST = 200;

    /** Points of outlines in one batch: each outline is looked at for crossing edges, which takes its time. */
    public const MOST_POINTS = 50_000;

    public function __construct(private readonly Codebooks $codebooks)
    {
    }

    /**
     * @param  list<mixed>  $edits  as sent
     * @return list<array<string, mixed>> an outcome for each, in order
     *
     * @throws IllegalMove when the turn is no longer this person's; then nothing is applied
     */
    public function __invoke(Actor $actor, Turn $turn, array $edits): array
    {
        return DB::transaction(function () use ($actor, $turn, $edits): array {
            $turn->refresh();
            $this->mustBeMine($actor, $turn);
            Codebooks::mustBeSteady($turn->project_id);
            $latest = $turn->project->codebookVersion();
            $codebook = $latest->codebook();
            $desk = Desk::of($turn);
            $results = [];
            $seconds = 0;
            $changed = false;
            foreach ($edits as $i => $data) {
                $result = $this->one($actor, $desk, $latest->version, $codebook, $data, "edits[{$i}]", $took);
                if ($result['outcome'] === EditOutcome::Applied->value) {
                    $seconds += $took;
                    $changed = true;
                }
                $results[] = $result;
            }
            $turn->seconds += $seconds;
            if ($turn->state === TurnState::Open) {
                $turn->leased_until = CarbonImmutable::now()->addSeconds(Lease::SECONDS);
            } else {
                $turn->review_leased_until = CarbonImmutable::now()->addSeconds(Lease::SECONDS);
            }
            $turn->save();
            if ($changed) {
                ItemStates::refresh($turn->item);
            }

            return $results;
        });
    }

    /**
     * Applies edits of marks on any items the person reaches, beside the turns: a sweep, a correction on the contact sheet. Each edit
     * also names its `item`; one that is out of reach is refused and stops no other.
     *
     * @param  list<mixed>  $edits  as sent
     * @return list<array<string, mixed>> an outcome for each, in order
     */
    public function across(Actor $actor, Project $project, array $edits): array
    {
        return DB::transaction(function () use ($actor, $project, $edits): array {
            Codebooks::mustBeSteady($project->id);
            $latest = $project->codebookVersion();
            $codebook = $latest->codebook();
            $desks = $changed = $results = [];
            foreach ($edits as $i => $data) {
                $item = is_array($data) && is_int($data['item'] ?? null) ? $data['item'] : 0;
                $desk = $desks[$item] ??= $this->desk($actor, $project, $item);
                if ($desk === false) {
                    $results[] = ['id' => is_array($data) && is_string($data['id'] ?? null) ? $data['id'] : null, 'outcome' => EditOutcome::Refused->value, 'mark' => null, 'reason' => 'this item is not yours to change now: it is submitted, archived, or somebody else has it open'];

                    continue;
                }
                $result = $this->one($actor, $desk, $latest->version, $codebook, $data, "edits[{$i}]", $took);
                if ($result['outcome'] === EditOutcome::Applied->value) {
                    $changed[$item] = ($changed[$item] ?? 0) + $took;
                }
                $results[] = $result;
            }
            foreach ($changed as $item => $seconds) {
                if ($desks[$item]->turn !== null) {
                    Turn::query()->whereKey($desks[$item]->turn)->increment('seconds', $seconds);
                }
                ItemStates::refresh($desks[$item]->item);
            }

            return $results;
        });
    }

    private function desk(Actor $actor, Project $project, int $id): Desk|false
    {
        $item = Reach::items($actor, $project)->with('asset')->find($id);

        return $item === null ? false : new Desk($project, $item, TurnKey::AGREED, Reach::turn($actor, $project, $item)?->id);
    }

    /**
     * @param  ?int  $took  active seconds the edit says it took
     * @return array<string, mixed>
     */
    private function one(Actor $actor, Desk $desk, int $version, Codebook $codebook, mixed $data, string $path, ?int &$took): array
    {
        try {
            $edit = Edit::fromArray($data, $path);
            $took = $edit->seconds;
            $made = $edit->codebook === null || $edit->codebook === $version ? null : $edit->codebook;

            return $this->apply($actor, $desk, $codebook, $made === null ? $edit : $this->translated($desk->project, $edit, $made), $made);
        } catch (InvalidValue $e) {
            $took = 0;
            $id = is_array($data) && is_string($data['id'] ?? null) ? $data['id'] : null;

            return ['id' => $id, 'outcome' => EditOutcome::Refused->value, 'mark' => null, 'reason' => $e->getMessage()];
        }
    }

    /**
     * Points of outlines in a batch.
     *
     * @param  list<mixed>  $edits  as sent
     */
    public static function points(array $edits): int
    {
        $numbers = 0;
        foreach ($edits as $edit) {
            $geometry = is_array($edit) && is_array($edit['data'] ?? null) ? ($edit['data']['geometry'] ?? null) : null;
            $rings = is_array($geometry) ? [...(is_array($geometry['rings'] ?? null) ? $geometry['rings'] : []), $geometry['points'] ?? null] : [];
            foreach ($rings as $ring) {
                $numbers += is_array($ring) ? count($ring) : 0;
            }
        }

        return intdiv($numbers, 2);
    }

    private function mustBeMine(Actor $actor, Turn $turn): void
    {
        $me = $actor->user->id;
        if ($turn->state === TurnState::Submitted && $turn->reviewer_id === $me) {
            return;
        }
        // a lease that ran out unnoticed (offline, lid closed) is taken up again as long as nobody else has the item
        if ($turn->state === TurnState::Waiting && ($turn->last_user_id === $me || $turn->user_id === $me)) {
            $turn->follow($turn->value()->open($me, now()->toDateTimeImmutable()));
        }
        if ($turn->user_id !== $me) {
            throw IllegalMove::because('turn_taken', 'somebody else has taken this item over; your last edits are kept in this browser');
        }
        if ($turn->state !== TurnState::Open) {
            throw IllegalMove::because('turn_not_open', "this item is {$turn->state->value}; your last edits are kept in this browser");
        }
    }

    /** What a hand did before its bench could know of a new codebook, in the words of that. */
    private function translated(Project $project, Edit $edit, int $made): Edit
    {
        return array_reduce($this->codebooks->steps($project, $made), static fn (Edit $edit, Remap $step): Edit => $edit->translated($step), $edit);
    }

    /**
     * @param  ?int  $made  version the edit was made under, when it is not the latest
     * @return array<string, mixed>
     */
    private function apply(Actor $actor, Desk $desk, Codebook $codebook, Edit $edit, ?int $made): array
    {
        if (DB::table('edits')->where('id', $edit->id)->exists()) {
            return ['id' => $edit->id, 'outcome' => EditOutcome::Repeated->value, 'mark' => $this->show($edit->mark, $desk)];
        }
        $row = MarkRow::query()->find($edit->mark);
        if ($row !== null && ($row->item_id !== $desk->item->id || $row->layer !== $desk->layer)) {
            throw InvalidValue::at('mark', $edit->mark, 'a mark of this item');
        }
        if (! $edit->fits($row?->revision, $row?->deleted_at !== null)) {
            return ['id' => $edit->id, 'outcome' => EditOutcome::Conflict->value, 'mark' => $row === null ? null : MarkShape::of($row)];
        }
        if ($row === null ? $edit->isOfItem() : $row->kind === ItemAnswers::KIND) {
            return $this->say($actor, $desk, $row, $edit);
        }
        $before = $row === null || $row->deleted_at !== null ? null : $row->mark();
        $after = $edit->applyTo($before);
        if ($after !== null) {
            $earlier = $made === null ? [] : $this->codebooks->since($desk->project, $made);
            (new MarkCheck($codebook))->admit($after, $desk->item->asset->width, $desk->item->asset->height, 'data', $earlier, $before);
        }
        $row = $this->store($actor, $desk, $row, $edit, $before, $after);

        return ['id' => $edit->id, 'outcome' => EditOutcome::Applied->value, 'mark' => MarkShape::of($row)];
    }

    /** @return array<string, mixed> */
    private function say(Actor $actor, Desk $desk, ?MarkRow $row, Edit $edit): array
    {
        if ($edit->mark !== ItemAnswers::id($desk->item->id, $desk->layer)) {
            throw InvalidValue::at('mark', $edit->mark, 'the id of what is said of this item');
        }
        $before = $row === null || $row->deleted_at !== null ? null : $row->said();
        $row = $this->store($actor, $desk, $row, $edit, $before, $edit->applyToItem($before));

        return ['id' => $edit->id, 'outcome' => EditOutcome::Applied->value, 'mark' => MarkShape::of($row)];
    }

    private function store(Actor $actor, Desk $desk, ?MarkRow $row, Edit $edit, Mark|ItemAnswers|null $before, Mark|ItemAnswers|null $after): MarkRow
    {
        $now = CarbonImmutable::now();
        if ($row === null) {
            $row = new MarkRow(['id' => $edit->mark, 'project_id' => $desk->project->id, 'item_id' => $desk->item->id, 'layer' => $desk->layer, 'source' => 'hand', 'revision' => 0, 'author_id' => $actor->user->id, 'deleted_at' => null]);
        }
        if ($after instanceof ItemAnswers) {
            $row->fill(['class' => '', 'kind' => ItemAnswers::KIND, 'geometry' => [], 'answers' => array_map(static fn ($answer): array => $answer->toArray(), $after->answers), 'tags' => $after->tags]);
        } elseif ($after !== null) {
            $row->fill(['class' => $after->class, 'kind' => $after->kind->value, 'geometry' => $after->geometry->toArray(), 'answers' => array_map(static fn ($answer): array => $answer->toArray(), $after->answers), 'stack' => $after->stack, 'part_of' => $after->partOf, 'flags' => array_map(static fn (Flag $flag): string => $flag->value, $after->flags)]);
        }
        $row->turn_id = $desk->turn ?? $row->turn_id;
        // who changed a mark last stands for it; the history keeps the others
        $row->author_id = $actor->user->id;
        $row->source = 'hand';
        // what a hand has been at is no model's guess any more
        $row->confidence = null;
        $row->deleted_at = $edit->action === EditAction::Delete ? $now : null;
        $row->revision++;
        $row->save();
        DB::table('mark_history')->insert([
            'mark_id' => $row->id, 'item_id' => $desk->item->id, 'user_id' => $actor->user->id, 'action' => $edit->action->value, 'revision' => $row->revision,
            'before' => $before === null ? null : json_encode($before->toArray()), 'after' => $after === null ? null : json_encode($after->toArray()), 'created_at' => $now,
        ]);
        DB::table('edits')->insert(['id' => $edit->id, 'item_id' => $desk->item->id, 'user_id' => $actor->user->id, 'mark_id' => $row->id, 'revision' => $row->revision, 'created_at' => $now]);

        return $row;
    }

    /** @return array<string, mixed>|null */
    private function show(string $mark, Desk $desk): ?array
    {
        $row = MarkRow::query()->where('item_id', $desk->item->id)->find($mark);

        return $row === null ? null : MarkShape::of($row);
    }
}
