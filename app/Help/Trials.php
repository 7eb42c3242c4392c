<?php

declare(strict_types=1);

namespace App\Help;

use App\Items\Layers;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Trial;
use App\Models\User;
use App\Support\Cancelled;
use App\Support\Patience;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\InvalidValue;
use Skeno\Core\Trial\Figures;
use Skeno\Core\Trial\Matched;

/** A model tried on accepted items before it is run over others: how good it is, where it is worst, and what correcting it would cost. */
final class Trials
{
    /** Items of a trial at most. */
    public const MOST = 500;

    /** Seconds to look at a suggestion and leave or drop it; drawing is measured, moving taken for half of it. */
    private const LOOK = 1.5;

    /** Seconds an object takes by hand where nobody has drawn any here yet. */
    private const BY_HAND = 8.0;

    public function __construct(private readonly AskModel $ask, private readonly Models $models, private readonly Examples $examples)
    {
    }

    /**
     * @param  string|ModelRow|null  $then  as a run
     * @param  list<int>  $items  ids that are looked for; of a learned model those it has not learned from are left
     * @param  int  $most  items it is tried on, drawn evenly
     *
     * @throws InvalidValue when there is none to try it on
     */
    public function begin(Project $project, ModelRow $model, ?User $by, Mapping $mapping, float $from, array $items, string|ModelRow|null $then = null, int $most = 100, bool $queued = true): Trial
    {
        if ($most < 1 || $most > self::MOST) {
            throw InvalidValue::at('most', $most, '1 to '.self::MOST.' items');
        }
        Suggesting::of($project->codebookVersion()->codebook(), $this->models->knows($model, $then), $mapping, $from);
        $wanted = array_flip($items);
        $parts = Examples::parted($project);
        // what it has learned from would flatter it
        $learns = $model->learns() !== null || $then instanceof ModelRow;
        $there = array_values(array_filter($learns ? $parts['held'] : [...$parts['held'], ...$parts['learned']], static fn (int $id): bool => isset($wanted[$id])));
        if ($there === []) {
            throw InvalidValue::at('items', count($items), $learns ? 'accepted items that are held out: a learned model is tried on what it has not learned from' : 'at least one accepted item among them');
        }
        sort($there);
        $n = min($most, count($there));
        $ids = array_map(static fn (int $k): int => $there[intdiv($k * count($there), $n)], range(0, $n - 1));

        return DB::transaction(static function () use ($project, $model, $by, $mapping, $from, $ids, $then, $queued): Trial {
            $trial = new Trial;
            $trial->forceFill(['project_id' => $project->id, 'created_by' => $by?->id, 'model' => $model->name, 'model_id' => $model->id, 'version_id' => $model->version_id, 'wish' => $mapping->toArray() + ['from' => $from, 'then' => $then instanceof ModelRow ? $then->id : $then], 'items' => $ids, 'total' => count($ids)])->save();
            if ($queued) {
                dispatch(new MeasureModel($trial->id));
            }

            return $trial->refresh();
        });
    }

    public function cancel(Trial $trial): void
    {
        Trial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working', 'failed'])->update(['state' => 'cancelled']);
    }

    /** @throws Cancelled when it was stopped meanwhile */
    public function work(Trial $trial): void
    {
        if (Trial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working', 'error' => '']) === 0) {
            throw Cancelled::byHand();
        }
        $model = $trial->asked ?? throw Refusal::because('model_gone', 'its model is not there any more');
        $codebook = $trial->project->codebookVersion()->codebook();
        $then = $this->models->then($trial->project_id, $trial->wish['then'] ?? null);
        $mapping = Mapping::fromArray($trial->wish);
        $suggesting = Suggesting::of($codebook, $this->models->knows($model, $then), $mapping, 0.0);
        $judged = array_flip($mapping->classes);
        $patience = new Patience;
        foreach (array_slice($trial->items, $trial->done) as $id) {
            $item = Item::query()->where('project_id', $trial->project_id)->with('asset')->find($id);
            $example = $item === null ? null : $this->examples->of($codebook, [$id])[$id] ?? null;
            $result = ['trial_id' => $trial->id, 'item_id' => $id, 'path' => $item?->path, 'matched' => null, 'failed' => 'it is gone'];
            if ($item !== null && $example !== null) {
                try {
                    $looked = $this->ask->find($model, $item->asset, $then, $mapping, $trial->version_id);
                    $found = array_values(array_filter(array_map(static fn (Found $one) => $suggesting->mark($one, '00000000000000000000000000'), $looked->things)));
                    $words = Matched::ofWords($suggesting->sayings($looked->told), Layers::agreed($id)->said());
                    $matched = Matched::of(
                        array_map(static fn ($mark): array => ['class' => $mark->class, 'confidence' => $mark->confidence ?? 0.0, 'geometry' => $mark->geometry], $found),
                        array_values(array_filter($example->things, static fn (array $thing): bool => isset($judged[$thing['class']]))), $example->unknown, $example->width, $example->height,
                    );
                    $result = ['matched' => json_encode($matched->toArray() + ['words' => $words->toArray()], JSON_THROW_ON_ERROR), 'failed' => ''] + $result;
                    $patience->answered();
                } catch (Refusal|InvalidValue $e) {
                    $result['failed'] = $patience->failed($e);
                }
            }
            DB::transaction(static function () use ($trial, $result): void {
                $now = Trial::query()->select(['id', 'state', 'done'])->findOrFail($trial->id);
                // stopped, or somebody else goes on with it
                if ($now->state !== 'working' || $now->done !== $trial->done) {
                    throw Cancelled::byHand();
                }
                DB::table('trial_items')->insert($result);
                $now->forceFill(['done' => $now->done + 1])->save();
                $trial->done = $now->done;
            });
        }
        Trial::query()->whereKey($trial->id)->where('state', 'working')->update(['state' => 'done']);
    }

    /**
     * What came of it, for a confidence.
     *
     * @return array{from: float, classes: array<string, mixed>, words: array<string, mixed>, worst: list<array<string, mixed>>, failed: list<array<string, mixed>>, cost: array{there: int, kept: int, moved: int, dropped: int, drawn: int, seconds: float, by_hand: float, an_object: float}}
     */
    public function figures(Trial $trial, float $from): array
    {
        $items = $words = $worst = $failed = [];
        $cost = ['there' => 0, 'kept' => 0, 'moved' => 0, 'dropped' => 0, 'drawn' => 0];
        $hand = min(600.0, max(1.0, ByHand::seconds($trial->project_id) ?? self::BY_HAND));
        foreach (DB::table('trial_items')->where('trial_id', $trial->id)->orderBy('id')->get() as $row) {
            $of = ['item' => (int) $row->item_id, 'path' => $row->path];
            if ($row->matched === null) {
                $failed[] = $of + ['reason' => (string) $row->failed];

                continue;
            }
            $data = json_decode((string) $row->matched, true);
            $items[] = $matched = Matched::fromArray($data);
            $words[] = Matched::fromArray($data['words'] ?? []);
            $work = Figures::work($matched, $from);
            $there = array_sum($matched->there);
            foreach ($work as $what => $many) {
                $cost[$what] += $many;
            }
            $cost['there'] += $there;
            $worst[] = $of + ['there' => $there, 'seconds' => self::seconds($work, $hand)] + $work;
        }
        usort($worst, static fn (array $a, array $b): int => [$b['seconds'], $a['item']] <=> [$a['seconds'], $b['item']]);
        $classes = [];
        foreach (array_unique(array_values($trial->wish['classes'])) as $class) {
            $classes[$class] = Figures::toArray(Figures::ofClass($items, $class, $from));
        }

        // what it may say: of tags that are never true and never suggested there is nothing to tell
        $said = array_values(array_unique([...array_map(static fn (string $tag): string => "tag:{$tag}", array_values($trial->wish['tags'] ?? [])), ...array_merge(...array_map(static fn (Matched $one): array => array_keys($one->found), $words))]));
        sort($said);
        $told = [];
        foreach ($said as $word) {
            $told[$word] = Figures::toArray(Figures::ofClass($words, $word, $from));
        }

        return ['from' => $from, 'classes' => $classes, 'words' => $told, 'worst' => $worst, 'failed' => $failed, 'cost' => $cost + ['seconds' => self::seconds($cost, $hand), 'by_hand' => round($hand * $cost['there'], 1), 'an_object' => round($hand, 1)]];
    }

    /** @param  array{kept: int, moved: int, dropped: int, drawn: int, there?: int}  $work */
    private static function seconds(array $work, float $hand): float
    {
        return round(self::LOOK * ($work['kept'] + $work['dropped']) + (self::LOOK + $hand / 2) * $work['moved'] + $hand * $work['drawn'], 1);
    }
}
