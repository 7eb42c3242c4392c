<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\Doubts;
use App\Items\ItemStates;
use App\Models\Assignment;
use App\Models\Item;
use App\Models\Membership;
use App\Models\Project;
use App\Models\Set;
use App\Models\Station as StationRow;
use App\Models\User;
use App\Support\Refusal;
use Closure;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Fields;
use Skeno\Core\Inference\SeenWhole;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\People\Ability;
use Skeno\Core\People\Rights;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Route;
use Skeno\Core\Workflow\Selection;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Station;
use Skeno\Core\Workflow\TurnState;

/** Makes assignments out of a sentence: which items, to whom, reviewed by whom. */
final class HandOut
{
    /** How a new pass over accepted items works: on top of their labels, or beside them without seeing them. */
    public const ON_TOP = 'on_top';

    public const BLIND = 'blind';

    /** Items handed out in one transaction. */
    private const CHUNK = 1000;

    public function __construct(private readonly DrawByDifference $difference, private readonly DrawByDoubt $doubt)
    {
    }

    /**
     * The items the sentence means: `{sets?, pool?: new|all, choose?: all|first|random|difference|doubt, count?, seed?}`.
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
            'difference', 'doubt' => null,
            default => throw InvalidValue::at('choose', $choose, 'all, first, random, difference or doubt'),
        };

        if ($choose === 'doubt') {
            return $pool === [] ? [] : $this->doubt->draw($pool, $in->int('count', 1, 1_000_000));
        }

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

    /**
     * What handing these items out would do to work there is.
     *
     * @param  list<int>  $items
     * @return array{items: int, accepted: int, under_way: int} how many, of those accepted, and of those somebody works on or decides about
     */
    public function effect(array $items): array
    {
        $states = [];
        foreach (array_chunk($items, 5000) as $some) {
            foreach (DB::table('items')->whereIntegerInRaw('id', $some)->groupBy('state')->selectRaw('state, count(*) as n')->pluck('n', 'state') as $state => $n) {
                $states[$state] = ($states[$state] ?? 0) + (int) $n;
            }
        }
        $accepted = $states[ItemState::Accepted->value] ?? 0;

        return ['items' => count($items), 'accepted' => $accepted, 'under_way' => count($items) - $accepted - ($states[ItemState::New->value] ?? 0)];
    }

    /**
     * Reads the sentence and hands out: also `{labellers, reviewers, experts?, overlap?, share?, again?, note?, priority?,
     * order?: came|doubt, sure?}`; sure: confidence from which on suggestions count as looked at once a picture has been seen whole.
     *
     * @param  (callable(Assignment, non-empty-list<int>, bool): mixed)|null  $turns  makes the turns (of items, or only those nobody has meanwhile), or leaves them
     *                                                                            to a job; in the transaction that makes the assignment, so that there is never one without the other
     */
    public function make(Project $project, User $by, Fields $in, ?callable $turns = null): Assignment
    {
        $labellers = $this->people($project, $in, 'labellers', Ability::Label);
        if ($labellers === []) {
            throw InvalidValue::at('labellers', [], 'at least one person');
        }
        $stations = [[Station::of(Stage::Label, 1.0, $in->optionalInt('overlap', 1, 20) ?? 1), $labellers]];
        foreach (['reviewers' => Stage::Review, 'experts' => Stage::Expert] as $field => $stage) {
            $people = $this->people($project, $in, $field, Ability::Review);
            if ($people !== []) {
                $stations[] = [Station::of($stage, $stage === Stage::Review ? $in->optionalNumber('share') ?? 1.0 : 1.0), $people];
            }
        }
        $overlap = Route::of(array_column($stations, 0))->label()->overlap;
        if ($overlap > count($labellers)) {
            throw InvalidValue::at('overlap', $overlap, 'at most as many people as label');
        }
        $again = $in->optionalString('again', 10);
        if ($again !== null && ! in_array($again, [self::ON_TOP, self::BLIND], true)) {
            throw InvalidValue::at('again', $again, self::ON_TOP.' or '.self::BLIND);
        }
        if ($again === self::ON_TOP && $overlap > 1) {
            throw InvalidValue::at('again', $again, self::BLIND.', since several people can\'t all work on top of the same labels');
        }
        $order = $in->optionalString('order', 10) ?? 'came';
        if (! in_array($order, ['came', 'doubt'], true)) {
            throw InvalidValue::at('order', $order, 'came or doubt');
        }
        $sure = $in->optionalNumber('sure');
        if ($sure !== null) {
            new SeenWhole($sure);
        }
        $items = $this->items($project, $in);
        if ($items === []) {
            throw Refusal::because('no_items', 'no item fits; nothing was handed out');
        }
        $accepted = $this->effect($items)['accepted'];
        if ($accepted > 0 && $again === null) {
            throw Refusal::because('accepted_items', "{$accepted} of these items are accepted. Say whether the new pass works on top of their labels, or blind beside them; until it is accepted itself they stay as they are", ['accepted' => $accepted]);
        }

        $turns ??= $this->turns(...);
        $onlyNew = ($in->optionalString('pool', 10) ?? 'new') === 'new';

        return DB::transaction(static function () use ($project, $by, $in, $stations, $again, $order, $sure, $items, $onlyNew, $turns): Assignment {
            $assignment = Assignment::query()->create([
                'project_id' => $project->id,
                'created_by' => $by->id,
                'note' => $in->optionalString('note') ?? '',
                'priority' => $in->optionalInt('priority', -10, 10) ?? 0,
                'rules' => ['sets' => $in->strings('sets'), 'pool' => $in->optionalString('pool') ?? 'new', 'choose' => $in->optionalString('choose') ?? 'all', 'count' => $in->optionalInt('count'), 'seed' => $in->optionalInt('seed'), 'again' => $again, 'order' => $order, 'sure' => $sure],
            ])->refresh();
            self::stations($assignment, $stations);
            $turns($assignment, $items, $onlyNew);

            return $assignment->refresh();
        });
    }

    /** @param  list<array{0: Station, 1: list<int>}>  $stations rules and people of each */
    public static function stations(Assignment $assignment, array $stations): void
    {
        foreach ($stations as $place => [$rules, $people]) {
            StationRow::query()->create(['assignment_id' => $assignment->id, 'place' => $place, 'stage' => $rules->stage, 'share' => $rules->share, 'overlap' => $rules->overlap])->people()->attach($people);
        }
    }

    /**
     * Makes the turns of an assignment, one for each item and pass, so many items a transaction that nobody waits for it.
     *
     * @param  list<int>  $items
     * @param  bool  $onlyNew  leave out what somebody else has been given meanwhile
     */
    public function turns(Assignment $assignment, array $items, bool $onlyNew = false): void
    {
        foreach (array_chunk($items, self::CHUNK) as $some) {
            DB::transaction(fn () => $this->chunk($assignment, $some, $onlyNew));
        }
    }

    /** @param  list<int>  $ids */
    private function chunk(Assignment $assignment, array $ids, bool $onlyNew): void
    {
        $states = DB::table('items')->where('project_id', $assignment->project_id)->whereIntegerInRaw('id', $ids)->whereNull('archived_at')->when($onlyNew, static fn ($query) => $query->where('state', ItemState::New->value))->pluck('state', 'id');
        $accepted = $states->filter(static fn (mixed $state): bool => $state === ItemState::Accepted->value)->keys()->all();
        $others = $states->keys()->diff($accepted)->all();
        $station = $assignment->station(Stage::Label);
        assert($station !== null);
        $beside = ($assignment->rules['again'] ?? null) === self::ON_TOP ? LayerKind::Draft : LayerKind::Blind;
        for ($pass = 1; $pass <= $station->overlap; $pass++) {
            $this->insert($assignment, $station, $others, $station->overlap > 1 ? LayerKind::Blind : LayerKind::Agreed, $pass, false);
            $this->insert($assignment, $station, $accepted, $beside, $pass, true);
        }
        if ($assignment->isByDoubt()) {
            Doubts::order($assignment, array_values(array_map(intval(...), $ids)));
        }
        ItemStates::refresh(array_values(array_map(intval(...), $states->keys()->all())));
    }

    /** @param  array<array-key, mixed>  $ids */
    private function insert(Assignment $assignment, StationRow $station, array $ids, LayerKind $kind, int $pass, bool $beside): void
    {
        if ($ids === []) {
            return;
        }
        $items = static fn () => DB::table('items')->whereIntegerInRaw('items.id', $ids);
        $name = $kind === LayerKind::Agreed ? $kind->name() : $kind->name($assignment->id, $pass);
        $now = now()->toDateTimeString();
        if ($kind !== LayerKind::Agreed) {
            DB::table('layers')->insertOrIgnoreUsing(['project_id', 'item_id', 'assignment_id', 'kind', 'pass', 'name', 'created_at', 'updated_at'], $items()->selectRaw('project_id, id, ?, ?, ?, ?, ?, ?', [$assignment->id, $kind->value, $pass, $name, $now, $now]));
        }
        DB::table('turns')->insertUsing(
            ['project_id', 'item_id', 'assignment_id', 'station_id', 'layer_id', 'stage', 'pass', 'round', 'state', 'beside', 'created_at', 'updated_at'],
            $items()->join('layers', static fn ($join) => $join->on('layers.item_id', '=', 'items.id')->where('layers.name', $name))->orderBy('items.path')
                ->selectRaw('items.project_id, items.id, ?, ?, layers.id, ?, ?, 1, ?, ?, ?, ?', [$assignment->id, $station->id, Stage::Label->value, $pass, TurnState::Waiting->value, $beside, $now, $now]),
        );
    }

    /** How many turns nobody has begun on. */
    public function unbegun(Assignment $assignment): int
    {
        return self::waiting($assignment)->count();
    }

    private static function waiting(Assignment $assignment): Builder
    {
        return DB::table('turns')->where('assignment_id', $assignment->id)->where('stage', Stage::Label->value)->where('state', TurnState::Waiting->value)->where('round', 1)->whereNull('last_user_id')->whereNull('opened_at');
    }

    /**
     * Takes an assignment back as far as nobody has begun on it; what was begun stays.
     *
     * @param  ?Closure(int): void  $going  told in each transaction how many turns go in it; may throw to stop
     */
    public function withdraw(Assignment $assignment, ?Closure $going = null): int
    {
        $withdrawn = 0;
        do {
            $gone = DB::transaction(static function () use ($assignment, $going): int {
                $some = self::waiting($assignment)->orderBy('id')->limit(self::CHUNK)->pluck('item_id', 'id');
                if ($going !== null) {
                    $going($some->count());
                }
                DB::table('turns')->whereIntegerInRaw('id', $some->keys()->all())->delete();
                ItemStates::refresh(array_values($some->map(static fn (mixed $id): int => (int) $id)->all()));

                return $some->count();
            });
            $withdrawn += $gone;
        } while ($gone === self::CHUNK);
        DB::transaction(static fn () => $assignment->turns()->doesntExist() ? $assignment->delete() : null);

        return $withdrawn;
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
