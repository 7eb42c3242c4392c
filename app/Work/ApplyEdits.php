<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Codebooks\Codebooks;
use App\Items\History;
use App\Items\Keys;
use App\Items\Layers;
use App\Items\MarkShape;
use App\Items\SaidShape;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\SuggestedWord;
use App\Models\Turn;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Edit;
use Skeno\Core\Marks\EditAction;
use Skeno\Core\Marks\EditOutcome;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\MarkSource;
use Skeno\Core\Marks\Remap;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeySource;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Lease;
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

    public function __construct(private readonly Codebooks $codebooks, private readonly Checks $checks)
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
        $edits = $this->read($turn->project_id, $edits);

        return DB::transaction(function () use ($actor, $turn, $edits): array {
            Codebooks::mustBeSteady($turn->project_id);
            $turn = $this->mine($actor, $turn->refresh());
            $latest = $turn->project->codebookVersion();
            $codebook = $latest->codebook();
            $desk = Desk::of($turn);
            $results = [];
            $seconds = 0;
            $took = 0;
            $stale = [];
            foreach ($edits as $data) {
                $result = $this->one($actor, $desk, $latest->version, $codebook, $data, $took, $stale);
                $seconds += $took;
                $results[] = $result;
            }
            Turn::query()->whereKey($turn->id)->update(['seconds' => DB::raw("seconds + {$seconds}"), 'leased_until' => CarbonImmutable::now()->addSeconds(Lease::SECONDS)]);
            if ($desk->changed) {
                Layers::count($desk->layer);
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
        $items = array_map(static fn (mixed $data): int => is_array($data) && is_int($data['item'] ?? null) ? $data['item'] : 0, $edits);
        $edits = $this->read($project->id, $edits);

        return DB::transaction(function () use ($actor, $project, $edits, $items): array {
            Codebooks::mustBeSteady($project->id);
            $latest = $project->codebookVersion();
            $codebook = $latest->codebook();
            $desks = $seconds = $results = $stale = [];
            $took = 0;
            foreach ($edits as $i => $data) {
                $item = $items[$i];
                $desk = $desks[$item] ??= $this->desk($actor, $project, $item);
                if ($desk === false) {
                    $results[] = ['id' => $data['id'], 'outcome' => EditOutcome::Refused->value, 'mark' => null, 'said' => null, 'key' => null, 'reason' => 'this item is not yours to change now: it is submitted, archived, or somebody else has it open'];

                    continue;
                }
                $stale[$item] ??= [];
                $results[] = $this->one($actor, $desk, $latest->version, $codebook, $data, $took, $stale[$item]);
                $seconds[$item] = ($seconds[$item] ?? 0) + $took;
            }
            foreach ($desks as $item => $desk) {
                if ($desk === false || ! $desk->changed) {
                    continue;
                }
                if ($desk->turn !== null) {
                    Turn::query()->whereKey($desk->turn)->increment('seconds', $seconds[$item] ?? 0);
                }
                Layers::count($desk->layer);
                $this->hold($desk, $codebook);
            }

            return $results;
        });
    }

    private function desk(Actor $actor, Project $project, int $id): Desk|false
    {
        $item = Reach::items($actor, $project)->with('asset')->find($id);

        return $item === null ? false : new Desk($project, $item, Layers::agreed($item->id)->setRelation('item', $item), Reach::turn($actor, $project, $item)?->id);
    }

    /** Accepted labels that were changed beside the turns are checked: what no longer holds waits for a decision again. */
    private function hold(Desk $desk, Codebook $codebook): void
    {
        if ($desk->item->state !== ItemState::Accepted) {
            return;
        }
        if ($desk->layer->mark_count === 0 && ! $desk->layer->nothing) {
            Decisions::reopen($desk->item->id, 'its last mark was taken away: is nothing there?');

            return;
        }
        $stops = array_values(array_filter($this->checks->of($desk->layer, $codebook), static fn (Finding $finding): bool => $finding->stops));
        if ($stops !== []) {
            Decisions::reopen($desk->item->id, $stops[0]->message);
        }
    }

    /**
     * Reads edits and checks their geometry, which may take its time, before anything is locked.
     *
     * @param  list<mixed>  $edits  as sent
     * @return list<array{id: ?string, edit: ?Edit, reason: string}> without an edit where it can't be one
     */
    private function read(int $project, array $edits): array
    {
        $marks = array_values(array_filter(array_map(static fn (mixed $data): mixed => is_array($data) ? $data['mark'] ?? null : null, $edits), is_string(...)));
        $kinds = MarkRow::query()->where('project_id', $project)->whereIn('id', $marks)->pluck('kind', 'id');
        $read = [];
        foreach ($edits as $i => $data) {
            $id = is_array($data) && is_string($data['id'] ?? null) ? $data['id'] : null;
            try {
                $edit = Edit::fromArray($data, "edits[{$i}]");
                $kind = $kinds->get($edit->mark ?? '');
                $read[] = ['id' => $id, 'edit' => $edit->checked(is_string($kind) ? $kind : null), 'reason' => ''];
            } catch (InvalidValue $e) {
                $read[] = ['id' => $id, 'edit' => null, 'reason' => $e->getMessage()];
            }
        }

        return $read;
    }

    /**
     * @param  array{id: ?string, edit: ?Edit, reason: string}  $read
     * @param  int  $took  active seconds the edit says it took, when it changed something
     * @param  array<string, true>  $stale  marks of which an edit of this batch was not taken: what follows was done on top of that, and is not taken either, whatever its base
     * @return array<string, mixed>
     */
    private function one(Actor $actor, Desk $desk, int $version, Codebook $codebook, array $read, int &$took, array &$stale): array
    {
        $took = 0;
        $refused = static fn (string $reason): array => ['id' => $read['id'], 'outcome' => EditOutcome::Refused->value, 'mark' => null, 'said' => null, 'key' => null, 'reason' => $reason];
        $edit = $read['edit'];
        if ($edit === null) {
            return $refused($read['reason']);
        }
        try {
            $made = $edit->codebook === null || $edit->codebook === $version ? null : $edit->codebook;
            $result = $this->apply($actor, $desk, $codebook, $made === null ? $edit : $this->translated($desk->project, $edit, $made), $made, isset($stale[$edit->subject()]) || isset($stale[(string) $edit->mark]));
            if ($result['outcome'] === EditOutcome::Conflict->value) {
                $stale[$edit->subject()] = true;
            }
            $took = $result['outcome'] === EditOutcome::Applied->value ? $edit->seconds : 0;

            return $result;
        } catch (InvalidValue $e) {
            $stale[$edit->subject()] = true;

            return $refused($e->getMessage());
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
            $data = is_array($edit) && is_array($edit['data'] ?? null) ? $edit['data'] : [];
            $geometry = $data['geometry'] ?? (is_array($data['key'] ?? null) ? $data['key']['geometry'] ?? null : null);
            $rings = is_array($geometry) ? [...(is_array($geometry['rings'] ?? null) ? $geometry['rings'] : []), $geometry['points'] ?? null] : [];
            foreach ($rings as $ring) {
                $numbers += is_array($ring) ? count($ring) : 0;
            }
        }

        return intdiv($numbers, 2);
    }

    private function mine(Actor $actor, Turn $turn): Turn
    {
        $turn = SubmitTurn::resumed($actor, $turn);
        if ($turn->user_id !== $actor->user->id) {
            throw IllegalMove::because('turn_taken', $turn->state === TurnState::Waiting && $turn->user_id === null ? 'this item went back to the queue; take it up again, your last edits are kept in this browser' : 'somebody else has taken this item over; your last edits are kept in this browser');
        }
        if ($turn->state !== TurnState::Open) {
            throw IllegalMove::because('turn_not_open', "this item is {$turn->state->value}; your last edits are kept in this browser");
        }

        return $turn;
    }

    /** What a hand did before its bench could know of a new codebook, in the words of that. */
    private function translated(Project $project, Edit $edit, int $made): Edit
    {
        return array_reduce($this->codebooks->steps($project, $made), static fn (Edit $edit, Remap $step): Edit => $edit->translated($step), $edit);
    }

    /**
     * @param  ?int  $made  version the edit was made under, when it is not the latest
     * @param  bool  $stale  it was done on top of an edit that was not taken
     * @return array<string, mixed>
     */
    private function apply(Actor $actor, Desk $desk, Codebook $codebook, Edit $edit, ?int $made, bool $stale): array
    {
        $known = DB::table('edits')->where('item_id', $desk->item->id)->where('id', $edit->id)->exists();
        if ($edit->isOfItem()) {
            return $known ? $this->result($edit, EditOutcome::Repeated, said: $desk->layer) : $this->say($actor, $desk, $edit, $stale);
        }
        if ($edit->action === EditAction::Drop) {
            $known || $this->drop($actor, $desk, $edit);

            return $this->result($edit, $known ? EditOutcome::Repeated : EditOutcome::Applied);
        }
        // marks of other items and layers are not there for this edit
        $row = MarkRow::query()->where('layer_id', $desk->layer->id)->find($edit->mark);
        if ($known) {
            return $this->result($edit, EditOutcome::Repeated, $row);
        }
        if ($row === null && MarkRow::query()->whereKey($edit->mark)->exists()) {
            throw InvalidValue::at('mark', $edit->mark, $edit->action === EditAction::Create ? 'an id nothing else has; draw it once more' : 'a mark of this item');
        }
        if ($edit->action !== EditAction::Key && ($stale || ! $edit->fits($row?->revision, $row?->deleted_at !== null))) {
            return $this->result($edit, EditOutcome::Conflict, $row);
        }
        if ($edit->action === EditAction::Key) {
            return $this->key($actor, $desk, $codebook, $edit, $made, $stale, $row);
        }
        $before = $row === null || $row->deleted_at !== null ? null : $row->mark();
        $after = $edit->applyTo($before);
        if ($after !== null) {
            $earlier = $made === null ? [] : $this->codebooks->since($desk->project, $made);
            (new MarkCheck($codebook))->admit($after, $desk->item->extent(), 'data', $earlier, $before);
        }

        return $this->result($edit, EditOutcome::Applied, $this->store($actor, $desk, $row, $edit, $before, $after));
    }

    /**
     * One key of a track. It asks nothing of the mark but that it is there, so hands on different keys never meet.
     *
     * @return array<string, mixed>
     */
    private function key(Actor $actor, Desk $desk, Codebook $codebook, Edit $edit, ?int $made, bool $stale, ?MarkRow $row): array
    {
        if ($row === null || $row->deleted_at !== null) {
            return $this->result($edit, EditOutcome::Conflict, $row);
        }
        $track = $row->mark();
        $places = $desk->item->places();
        if (! $track->isTrack() || $places === null) {
            throw InvalidValue::at('mark', $edit->mark, 'a track');
        }
        $place = $edit->place();
        $before = Keys::at($row, $place);
        if ($stale || $edit->base !== Keys::revision($row->id, $place)) {
            return $this->result($edit, EditOutcome::Conflict, $row, key: Keys::shapeAt($row->id, $place));
        }
        $after = $edit->key($track->kind);
        if ($after !== null) {
            $earlier = $made === null ? [] : $this->codebooks->since($desk->project, $made);
            $check = new MarkCheck($codebook);
            $extent = $desk->item->extent();
            $check->admitKey($after, $track, $extent, 'data', $earlier);
            Keys::write($row, [$after], $actor->user->id, static fn (Key $key): bool => $check->isFaulty($key, $track, $extent));
        } elseif ($before !== null) {
            Keys::remove($row, $place, $edit->base + 1, $actor->user->id);
        } else {
            return $this->result($edit, EditOutcome::Conflict, $row, key: Keys::shapeAt($row->id, $place));
        }
        $desk->changed = true;
        $this->remember($actor, $desk, $edit, $row->id, $edit->base + 1, $before === null ? null : ['key' => $before->toArray()], $after === null ? null : ['key' => $after->toArray()]);

        return $this->result($edit, EditOutcome::Applied, $row, key: Keys::shapeAt($row->id, $place));
    }

    /**
     * @param  ?array<string, mixed>  $key
     * @return array<string, mixed>
     */
    private function result(Edit $edit, EditOutcome $outcome, ?MarkRow $mark = null, ?Layer $said = null, ?array $key = null): array
    {
        return ['id' => $edit->id, 'outcome' => $outcome->value, 'mark' => $mark === null ? null : MarkShape::of($mark), 'said' => $said === null ? null : SaidShape::of($said), 'key' => $key];
    }

    /**
     * What is said of the item as a whole belongs to the layer.
     *
     * @return array<string, mixed>
     */
    private function say(Actor $actor, Desk $desk, Edit $edit, bool $stale): array
    {
        $layer = $desk->layer;
        if ($stale || $edit->base !== $layer->revision) {
            return $this->result($edit, EditOutcome::Conflict, said: $layer);
        }
        $before = $layer->said();
        $after = $edit->applyToItem($before) ?? ItemAnswers::none();
        MarkCheck::admitSaid($after, $desk->item->places());
        $said = $after->toArray();
        $layer->fill(['answers' => $said['answers'] ?? [], 'tags' => $after->tags, 'stretches' => $said['stretches'] ?? [], 'revision' => $layer->revision + 1, 'author_id' => $actor->user->id, 'source' => 'hand'])->save();
        $desk->changed = true;
        $this->remember($actor, $desk, $edit, null, $layer->revision, $before->toArray(), $said);

        return $this->result($edit, EditOutcome::Applied, said: $layer);
    }

    private function store(Actor $actor, Desk $desk, ?MarkRow $row, Edit $edit, ?Mark $before, ?Mark $after): MarkRow
    {
        $row ??= new MarkRow(['id' => $edit->mark, 'project_id' => $desk->project->id, 'item_id' => $desk->item->id, 'layer_id' => $desk->layer->id, 'layer' => $desk->layer->kind->value, 'revision' => 0, 'suggestion_id' => $this->suggestion($desk, $edit)]);
        if ($after !== null) {
            $row->fill(['class' => $after->class, 'kind' => $after->kind->value, 'geometry' => $after->geometry->toArray(), 'answers' => array_map(static fn ($answer): array => $answer->toArray(), $after->answers), 'stack' => $after->stack, 'part_of' => $after->partOf, 'flags' => array_map(static fn (Flag $flag): string => $flag->value, $after->flags), 'place' => $after->place, 'stretches' => $after->there?->toArray()]);
        }
        $row->turn_id = $desk->turn ?? $row->turn_id;
        // who changed a mark last stands for it; the history keeps the others
        $row->author_id = $actor->user->id;
        $row->source = (MarkSource::tryFrom((string) $row->source) ?? MarkSource::Hand)->after($edit->source)->value;
        // what a hand has been at is no model's guess any more
        $row->confidence = null;
        $row->deleted_at = $edit->action === EditAction::Delete ? CarbonImmutable::now() : null;
        $row->revision++;
        $row->save();
        if ($after?->isTrack() === true && $after->place !== null && $edit->action === EditAction::Create && ! Keys::has($row->id)) {
            // what was drawn is its first key
            Keys::write($row, [Key::of($after->place, $after->geometry, source: $edit->source === MarkSource::Cutout ? KeySource::Cutout : KeySource::Hand)], $actor->user->id, fn (Key $key): bool => (new MarkCheck($desk->project->codebookVersion()->codebook()))->isFaulty($key, $after, $desk->item->extent()));
        }
        $desk->changed = true;
        $this->remember($actor, $desk, $edit, $row->id, $row->revision, $before?->toArray(), $after?->toArray());

        return $row;
    }

    /** A suggestion is found wrong where this hand works, or offered there again. */
    private function drop(Actor $actor, Desk $desk, Edit $edit): void
    {
        $suggestion = $this->offered($desk, (string) $edit->mark, 'mark');
        $drops = DB::table('suggestion_drops');
        if ($edit->isDropped()) {
            $drops->insertOrIgnore(['layer_id' => $desk->layer->id, 'suggestion_id' => $suggestion, 'user_id' => $actor->user->id, 'created_at' => now()]);
        } else {
            $drops->where('layer_id', $desk->layer->id)->where('suggestion_id', $suggestion)->delete();
        }
        DB::table('edits')->insert(['id' => $edit->id, 'item_id' => $desk->item->id, 'user_id' => $actor->user->id, 'mark_id' => null, 'revision' => 0, 'created_at' => now()]);
    }

    /** The suggestion a new mark confirms: one of this item, or none. */
    private function suggestion(Desk $desk, Edit $edit): ?string
    {
        return $edit->suggestion === null ? null : $this->offered($desk, $edit->suggestion, 'suggestion');
    }

    /** @throws InvalidValue when it is no suggestion on this item */
    private function offered(Desk $desk, string $id, string $field): string
    {
        return MarkRow::query()->where('item_id', $desk->item->id)->where('layer', LayerKind::Suggestion)->whereKey($id)->first()->id
            // nothing but a mark is confirmed by a mark; what is found wrong may be a word too
            ?? ($field === 'mark' ? SuggestedWord::query()->where('item_id', $desk->item->id)->whereKey($id)->first()?->id : null)
            ?? throw InvalidValue::at($field, $id, 'a suggestion on this item');
    }

    /**
     * @param  array<string, mixed>|null  $before
     * @param  array<string, mixed>|null  $after
     */
    private function remember(Actor $actor, Desk $desk, Edit $edit, ?string $mark, int $revision, ?array $before, ?array $after): void
    {
        History::write([History::entry($desk->item->id, $desk->layer->id, $mark, $revision, $edit->action->value, $before, $after, $actor->user->id)]);
        DB::table('edits')->insert(['id' => $edit->id, 'item_id' => $desk->item->id, 'user_id' => $actor->user->id, 'mark_id' => $mark, 'revision' => $revision, 'created_at' => now()]);
    }
}
