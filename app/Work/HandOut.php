<?php

declare(strict_types=1);

namespace App\Work;

use App\Http\Refusal;
use App\Models\Assignment;
use App\Models\AssignmentPerson;
use App\Models\Item;
use App\Models\Membership;
use App\Models\Project;
use App\Models\Set;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Rights;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Selection;

/** Makes assignments out of a sentence: which items, to whom, reviewed by whom. */
final class HandOut
{
    public function __construct(private readonly Turns $turns, private readonly DrawByDifference $difference)
    {
    }

    /**
     * The items the sentence means: `{sets?, pool?: new|all, choose?: all|first|random|difference, count?, seed?}`.
     *
     * @return list<int> in byte order of their paths
     */
    public function items(Project $project, Fields $in): array
    {
        [$pool, $choose] = $this->pool($project, $in);
        $selection = match ($choose) {
            'all' => Selection::all(),
            'first' => Selection::first($in->int('count', 1, 1_000_000)),
            'random' => Selection::random($in->int('count', 1, 1_000_000), $in->optionalInt('seed') ?? 1),
            'difference' => null,
            default => throw InvalidValue::at('choose', $choose, 'all, first, random or difference'),
        };

        return $selection?->from($pool) ?? $this->difference->draw($project, $pool, $in->int('count', 1, DrawByDifference::MOST), $in->optionalInt('seed') ?? 1)->items;
    }

    /** What a draw by difference covers, beside a random one of the same size; null for other draws. */
    public function cover(Project $project, Fields $in): ?DrawnLot
    {
        [$pool, $choose] = $this->pool($project, $in);

        return $choose === 'difference' && $pool !== [] ? $this->difference->draw($project, $pool, $in->int('count', 1, DrawByDifference::MOST), $in->optionalInt('seed') ?? 1) : null;
    }

    /** @return array{0: list<int>, 1: string} the items drawn from, in byte order of their paths, and how */
    private function pool(Project $project, Fields $in): array
    {
        $query = Item::query()->where('project_id', $project->id)->where('state', '!=', ItemState::Archived)->orderBy('path');
        $pool = $in->optionalString('pool', 10) ?? 'new';
        if (! in_array($pool, ['new', 'all'], true)) {
            throw InvalidValue::at('pool', $pool, 'new or all');
        }
        if ($pool === 'new') {
            // items nobody has yet; what came in with labels, or was handed out before, is left alone unless asked for
            $query->where('state', ItemState::New);
        }
        $sets = $in->strings('sets');
        if ($sets !== []) {
            $known = Set::query()->where('project_id', $project->id)->whereIn('path', $sets)->pluck('id', 'path')->all();
            foreach ($sets as $i => $set) {
                if (! isset($known[$set])) {
                    throw InvalidValue::at("sets[{$i}]", $set, 'a set of this project');
                }
            }
            $query->whereIn('set_id', array_values($known));
        }

        return [array_values(array_map(intval(...), $query->pluck('id')->all())), $in->optionalString('choose', 10) ?? 'all'];
    }

    /** Reads the sentence and hands out: also `{labellers, reviewers, note?, priority?}`. */
    public function make(Project $project, User $by, Fields $in): Assignment
    {
        $labellers = $this->people($project, $in, 'labellers', Ability::Label);
        $reviewers = $this->people($project, $in, 'reviewers', Ability::Review);
        if ($labellers === []) {
            throw InvalidValue::at('labellers', [], 'at least one person');
        }
        $overlap = $in->optionalInt('overlap', 1, 1) ?? 1;

        return DB::transaction(function () use ($project, $by, $in, $labellers, $reviewers, $overlap): Assignment {
            $items = $this->items($project, $in);
            if ($items === []) {
                throw Refusal::because('no_items', 'no item fits; nothing was handed out', 422);
            }
            $assignment = Assignment::query()->create([
                'project_id' => $project->id,
                'created_by' => $by->id,
                'note' => $in->optionalString('note') ?? '',
                'priority' => $in->optionalInt('priority', -10, 10) ?? 0,
                'needs_review' => $reviewers !== [],
                'overlap' => $overlap,
                'rules' => ['sets' => $in->strings('sets'), 'pool' => $in->optionalString('pool') ?? 'new', 'choose' => $in->optionalString('choose') ?? 'all', 'count' => $in->optionalInt('count'), 'seed' => $in->optionalInt('seed')],
            ])->refresh();
            foreach (['labeller' => $labellers, 'reviewer' => $reviewers] as $part => $ids) {
                foreach ($ids as $id) {
                    AssignmentPerson::query()->create(['assignment_id' => $assignment->id, 'user_id' => $id, 'part' => $part]);
                }
            }
            $this->turns->handOut($assignment, $items);

            return $assignment;
        });
    }

    /** Takes an assignment back as far as nobody has begun on it; what was begun stays. */
    public function withdraw(Assignment $assignment): int
    {
        return DB::transaction(static function () use ($assignment): int {
            $waiting = $assignment->turns()->where('state', 'waiting')->where('round', 1)->whereNull('last_user_id')->with('item')->get();
            foreach ($waiting as $turn) {
                $item = $turn->item;
                $turn->delete();
                ItemStates::refresh($item);
            }
            if ($assignment->turns()->doesntExist()) {
                $assignment->delete();
            }

            return $waiting->count();
        });
    }

    /** @return list<int> */
    private function people(Project $project, Fields $in, string $field, Ability $ability): array
    {
        $ids = [];
        foreach ($in->list($field) as $i => $id) {
            $role = is_int($id) ? Membership::query()->where('project_id', $project->id)->where('user_id', $id)->first()?->role : null;
            if ($role === null || ! Rights::ofRole($role, $ability)) {
                throw InvalidValue::at("{$field}[{$i}]", $id, "a person of this project who may {$ability->value}");
            }
            $ids[] = (int) $id;
        }

        return array_values(array_unique($ids));
    }
}
