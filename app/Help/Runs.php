<?php

declare(strict_types=1);

namespace App\Help;

use App\Codebooks\Codebooks;
use App\Items\Doubts;
use App\Items\History;
use App\Items\Layers;
use App\Items\Suggested;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use App\Models\User;
use App\Support\Cancelled;
use App\Support\Patience;
use App\Support\Refusal;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;

/**
 * A model or a prompt asked about many items, one after the other: what it finds becomes suggestions. What it asks the network it asks outside of any
 * transaction; what it writes of an item and how far it has come are one, so that it goes on where it was broken off.
 */
final class Runs
{
    /** What becomes of what is there: it stays beside, earlier suggestions go, or items that have any marks are left out. */
    public const STAYS = ['beside', 'replace', 'without'];

    /** Seconds after which a job leaves the rest to another. */
    public const SLICE = 1800.0;

    private const MOST_LISTED = 200;

    /** Items whose suggestions are taken back in one transaction. */
    private const CHUNK = 300;

    /** @param  list<Finders>  $finders  the rooms whose things may be asked */
    public function __construct(private readonly Models $models, private readonly array $finders)
    {
    }

    /**
     * Asks a model of pictures.
     *
     * @param  array<string, float>  $own  confidence by class, where it is not the common one
     * @param  list<int>  $items  ids, in the order they are to be done
     * @param  string|ModelRow|null  $then  what is done with each thing that was found: AskModel::OUTLINE, or a learned model
     * @param  bool  $queued  false: who begins it works on it at once
     *
     * @throws InvalidValue
     */
    public function begin(Project $project, ModelRow $model, ?User $by, Mapping $mapping, float $from, array $own, string $stays, array $items, string|ModelRow|null $then = null, bool $queued = true): Run
    {
        Suggesting::of($project->codebookVersion()->codebook(), $this->models->knows($model, $then), $mapping, $from, $own);

        return $this->put($project, $by, ['model' => $model->name, 'model_id' => $model->id, 'version_id' => $model->version_id], $mapping->toArray() + ['from' => $from, 'own' => $own, 'then' => $then instanceof ModelRow ? $then->id : $then], $stays, $items, $queued);
    }

    /**
     * Writes a run down, with who is asked already checked.
     *
     * @param  array{model: string, model_id?: int, version_id?: ?int, prompt_version_id?: int}  $asked
     * @param  array<string, mixed>  $wish
     * @param  list<int>  $items
     *
     * @throws InvalidValue
     */
    public function put(Project $project, ?User $by, array $asked, array $wish, string $stays, array $items, bool $queued = true): Run
    {
        if (! in_array($stays, self::STAYS, true)) {
            throw InvalidValue::at('stays', $stays, implode(', ', self::STAYS));
        }
        if ($items === []) {
            throw InvalidValue::at('items', [], 'at least one item');
        }

        return DB::transaction(static function () use ($project, $by, $asked, $wish, $stays, $items, $queued): Run {
            $run = new Run;
            $run->forceFill($asked + ['project_id' => $project->id, 'created_by' => $by?->id, 'wish' => $wish + ['stays' => $stays], 'items' => $items, 'total' => count($items), 'state' => 'waiting'])->save();
            if ($queued) {
                dispatch(new RunModel($run->id));
            }

            return $run->refresh();
        });
    }

    /** Stops it; what it has suggested so far stays. */
    public function cancel(Run $run): void
    {
        Run::query()->whereKey($run->id)->whereIn('state', ['waiting', 'working', 'paused', 'failed'])->update(['state' => 'cancelled']);
        self::letGo($run->id);
    }

    public function pause(Run $run): void
    {
        Run::query()->whereKey($run->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'paused']);
        self::letGo($run->id);
    }

    /** Items that waited for it before they were given to a labeller wait no longer. */
    public static function letGo(int $run): void
    {
        DB::table('items')->where('helping_run_id', $run)->update(['helping_run_id' => null, 'helped_at' => now()]);
    }

    /** Goes on with what is paused or has failed, where it was. */
    public function resume(Run $run): void
    {
        DB::transaction(static function () use ($run): void {
            if (Run::query()->whereKey($run->id)->whereIn('state', ['paused', 'failed'])->update(['state' => 'waiting', 'error' => '']) === 0) {
                throw Refusal::because('not_paused', 'only what is paused or has failed can go on');
            }
            dispatch(new RunModel($run->id));
        });
    }

    /**
     * Takes away all that a run has suggested and nobody has confirmed; what was confirmed is a label of its own.
     *
     * @return int suggestions that went
     */
    public function takeBack(Run $run): int
    {
        Run::query()->whereKey($run->id)->update(['state' => 'taken_back']);
        self::letGo($run->id);
        $gone = 0;
        // some items a transaction, so that nobody waits long to write
        foreach (Layer::query()->where('run_id', $run->id)->orderBy('id')->pluck('id')->chunk(self::CHUNK) as $some) {
            $gone += DB::transaction(static function () use ($some): int {
                $count = self::unconfirmed()->whereIn('layer_id', $some->all())->update(['deleted_at' => now(), 'revision' => DB::raw('revision + 1')]);
                $count += Suggested::unsay($some->values()->all());
                DB::table('layers')->whereIn('id', $some->all())->update(['mark_count' => DB::raw('(select count(*) from marks where marks.layer_id = layers.id and marks.deleted_at is null)')]);
                Doubts::refresh(DB::table('layers')->whereIn('id', $some->all())->pluck('item_id')->map(static fn (mixed $id): int => (int) $id)->values()->all());

                return $count;
            });
        }

        return $gone;
    }

    /** @return Builder<MarkRow> suggestions no mark stands for */
    private static function unconfirmed(): Builder
    {
        return MarkRow::query()->whereNull('deleted_at')->whereNotExists(static fn ($confirmed) => $confirmed->from('marks as confirmed')->whereColumn('confirmed.suggestion_id', 'marks.id')->whereNull('confirmed.deleted_at'));
    }

    /**
     * Goes on with it for a while.
     *
     * @return bool whether it is done
     *
     * @throws Cancelled when it was stopped meanwhile
     * @throws Refusal|InvalidValue when who is asked does not answer any more
     */
    public function work(Run $run, float $seconds = INF): bool
    {
        if (Run::query()->whereKey($run->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working', 'error' => '']) === 0) {
            throw Cancelled::byHand();
        }
        $finder = $this->finder($run);
        $until = microtime(true) + $seconds;
        $patience = new Patience;
        foreach (array_slice($run->items, $run->done) as $id) {
            if (microtime(true) >= $until) {
                return false;
            }
            do {
                $codebook = $run->project->codebookVersion();
                $item = Item::query()->where('project_id', $run->project_id)->whereNull('archived_at')->with('asset')->find($id);
                $found = $failed = null;
                if ($item !== null && ! ($run->wish['stays'] === 'without' && self::isLabelled($item, $finder->looksForObjects()))) {
                    try {
                        $found = $finder->suggest($item, $codebook->codebook());
                        $patience->answered();
                    } catch (Refusal|InvalidValue $e) {
                        $failed = $patience->failed($e);
                    }
                }
                // what was said in the words of a codebook that was changed meanwhile is asked again
            } while (! $this->keep($run, $item, $found, $failed, $codebook->id));
        }
        Run::query()->whereKey($run->id)->where('state', 'working')->update(['state' => 'done', 'items' => '[]']);
        // of items that went away meanwhile
        self::letGo($run->id);

        return true;
    }

    private function finder(Run $run): Finder
    {
        foreach ($this->finders as $finders) {
            $finder = $finders->of($run);
            if ($finder !== null) {
                return $finder;
            }
        }
        throw Refusal::because('model_gone', 'what it asked is not there any more');
    }

    /**
     * What was found on an item, and that it is done.
     *
     * @param  ?Suggestions  $found  null: it was not asked about
     * @param  int  $codebook  id of the version in whose words it was asked
     * @return bool false: that is not the version in use any more, and nothing was kept
     *
     * @throws Cancelled
     */
    private function keep(Run $run, ?Item $item, ?Suggestions $found, ?string $failed, int $codebook): bool
    {
        return DB::transaction(static function () use ($run, $item, $found, $failed, $codebook): bool {
            Codebooks::mustBeSteady($run->project_id);
            // without the list of its items, which may be long
            $now = Run::query()->select(['id', 'project_id', 'wish', 'state', 'done', 'report'])->findOrFail($run->id);
            // stopped, or somebody else goes on with it
            if ($now->state !== 'working' || $now->done !== $run->done) {
                throw Cancelled::byHand();
            }
            if ($found !== null && $run->project->codebookVersion()->id !== $codebook) {
                return false;
            }
            $report = $now->report + ['things' => 0, 'said' => 0, 'with' => 0, 'without' => 0, 'left' => 0, 'failed' => [], 'failed_count' => 0];
            if ($failed !== null) {
                $report['failed_count']++;
                if (count($report['failed']) < self::MOST_LISTED) {
                    $report['failed'][] = ['item' => $item?->path, 'reason' => $failed];
                }
            } elseif ($found === null || $item === null) {
                $report['left']++;
            } else {
                $report['things'] += count($found->marks);
                $report['said'] += count($found->sayings);
                $report[$found->marks === [] && $found->sayings === [] ? 'without' : 'with']++;
                foreach ($found->sums as $name => $many) {
                    $report['sums'][$name] = ($report['sums'][$name] ?? 0) + $many;
                }
                self::suggest($now, $item, $found->marks, $found->sayings);
            }
            if ($item?->helping_run_id === $run->id) {
                DB::table('items')->where('id', $item->id)->where('helping_run_id', $run->id)->update(['helping_run_id' => null, 'helped_at' => now()]);
            }
            $now->forceFill(['done' => $now->done + 1, 'report' => $report])->save();
            $run->done = $now->done;

            return true;
        });
    }

    /** Whether somebody has labelled what a run would suggest: objects, or what is said of the whole where it looks for nothing else. */
    private static function isLabelled(Item $item, bool $objects): bool
    {
        return $objects ? $item->mark_count > 0 : ! Layers::agreed($item->id)->said()->isEmpty();
    }

    /**
     * @param  list<Mark>  $marks
     * @param  list<Saying>  $sayings
     */
    private static function suggest(Run $run, Item $item, array $marks, array $sayings): void
    {
        if ($run->wish['stays'] === 'replace') {
            foreach (Layer::query()->where('item_id', $item->id)->where('kind', LayerKind::Suggestion)->where('run_id', '!=', $run->id)->get() as $old) {
                Suggested::unsay([$old->id]);
                self::unconfirmed()->where('layer_id', $old->id)->update(['deleted_at' => now(), 'revision' => DB::raw('revision + 1')]);
                Layers::count($old);
            }
        }
        $layer = Layers::ensure($item, LayerKind::Suggestion, $run->id);
        // of a clip its first frame was looked at: a track that is there, to be carried on by whoever confirms it; of a document its first page
        $where = $item->places() === null ? [] : ['place' => 0] + ($item->extent()->hasTracks() ? ['stretches' => [[0, 0]]] : []);
        $rows = $history = [];
        foreach ($marks as $mark) {
            $data = $mark->toArray() + $where;
            $rows[] = [
                'id' => $mark->id, 'project_id' => $run->project_id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'layer' => $layer->kind->value, 'source' => 'model', 'class' => $mark->class, 'kind' => $mark->kind->value,
                'geometry' => json_encode($data['geometry'], JSON_PRESERVE_ZERO_FRACTION | JSON_THROW_ON_ERROR), 'answers' => json_encode((object) ($data['answers'] ?? []), JSON_THROW_ON_ERROR), 'flags' => '[]', 'confidence' => $mark->confidence, 'place' => $where['place'] ?? null, 'stretches' => ! isset($where['stretches']) ? null : json_encode($where['stretches'], JSON_THROW_ON_ERROR), 'revision' => 1, 'created_at' => now(), 'updated_at' => now(),
            ];
            $history[] = History::entry($item->id, $layer->id, $mark->id, 1, 'create', null, $data, null);
        }
        foreach (array_chunk($rows, 200) as $some) {
            DB::table('marks')->insert($some);
        }
        History::write($history);
        Suggested::say($layer, $sayings);
        Layers::count($layer);
        Doubts::refresh([$item->id]);
    }
}
