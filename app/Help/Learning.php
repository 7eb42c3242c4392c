<?php

declare(strict_types=1);

namespace App\Help;

use App\Looks\LookAtObjects;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use App\Models\Project;
use App\Support\Cancelled;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Choices;
use Skeno\Core\Learn\Example;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Learn\Regions;
use Skeno\Core\Learn\Skeletons;
use Skeno\Core\Learn\Then;
use Skeno\Core\Trial\Figures;
use Skeno\Core\Trial\Matched;

/** Models a project learns from its accepted labels, version by version; each is measured on items it has never learned from. */
final class Learning
{
    /** Confidence from which on things count when a version is measured. */
    private const FROM = 0.5;

    /** It is learned anew once so many more items are accepted, and by so large a share. */
    private const MORE = 5;

    private const SHARE = 0.25;

    /** Versions before the one in use that are kept whole. */
    private const KEPT = 3;

    public function __construct(private readonly Examples $examples, private readonly Questions $questions, private readonly LookAtObjects $look)
    {
    }

    /**
     * @param  bool  $queued  false: who begins it works on it at once
     *
     * @throws InvalidValue when there is too little to learn from
     * @throws Refusal when a version is being learned already
     */
    public function begin(Project $project, LearnedKind $kind, bool $queued = true): ModelVersion
    {
        $codebook = $project->codebookVersion()->codebook();
        $parts = Examples::parted($project);
        if (count($parts['learned']) < Regions::LEAST) {
            throw InvalidValue::at('accepted', count($parts['learned']), 'at least '.Regions::LEAST.' accepted pictures to learn from, beside those held out to measure by ('.count($parts['held']).')');
        }
        if ($kind === LearnedKind::Skeletons && self::skeletons($codebook) === []) {
            throw InvalidValue::at('kind', $kind->value, 'a project with a class drawn as a skeleton');
        }

        return DB::transaction(static function () use ($project, $kind, $parts, $queued): ModelVersion {
            $model = ModelRow::query()->firstOrCreate(['project_id' => $project->id, 'kind' => $kind->value], ['name' => self::named($project, $kind), 'card' => [], 'remote' => '']);
            if (ModelVersion::query()->where('model_id', $model->id)->whereIn('state', ['waiting', 'working'])->exists()) {
                throw Refusal::because('model_at_work', "a version of {$model->name} is being learned: wait for it, or stop it first");
            }
            $version = new ModelVersion;
            $version->forceFill(['model_id' => $model->id, 'number' => 1 + (int) ModelVersion::query()->where('model_id', $model->id)->max('number'), 'accepted' => count($parts['learned']) + count($parts['held'])])->save();
            if ($queued) {
                dispatch(new LearnVersion($version->id));
            }

            return $version->refresh();
        });
    }

    /** Asks for what has grown enough since it was last learned. @return int versions begun */
    public function again(): int
    {
        $begun = 0;
        foreach (ModelRow::query()->whereNotNull('version_id')->get() as $model) {
            $last = ModelVersion::query()->select(ModelVersion::COLUMNS)->where('model_id', $model->id)->orderByDesc('number')->first();
            $project = Project::query()->find($model->project_id);
            if ($last === null || $project === null || $last->state !== 'done' || $model->learns() === null) {
                continue;
            }
            if (Examples::accepted($project)->count() >= $last->accepted + max(self::MORE, self::SHARE * $last->accepted)) {
                try {
                    $this->begin($project, $model->learns());
                    $begun++;
                } catch (Refusal|InvalidValue) {
                    // begun meanwhile by a press, or what was accepted has been taken back
                    continue;
                }
            }
        }

        return $begun;
    }

    public function cancel(ModelVersion $version): void
    {
        ModelVersion::query()->whereKey($version->id)->whereIn('state', ['waiting', 'working', 'failed'])->update(['state' => 'cancelled']);
    }

    /** @throws Cancelled when it was stopped meanwhile */
    public function work(ModelVersion $version): void
    {
        if (ModelVersion::query()->whereKey($version->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working', 'error' => '']) === 0) {
            throw Cancelled::byHand();
        }
        $begin = microtime(true);
        $model = $version->model;
        $kind = $model->learns() ?? throw InvalidValue::at('kind', $model->kind, 'a model that learns');
        $project = Project::query()->findOrFail($model->project_id);
        $codebook = $project->codebookVersion()->codebook();
        $parts = Examples::parted($project);
        $told = 0.0;
        $progress = static function (float $part) use ($version, &$told): void {
            if (microtime(true) - $told > 1) {
                $told = microtime(true);
                if (ModelVersion::query()->whereKey($version->id)->where('state', 'working')->update(['done' => (int) (900 * $part)]) === 0) {
                    throw Cancelled::byHand();
                }
            }
        };
        if ($kind === LearnedKind::Looks) {
            // what nobody has looked at yet is looked at first
            while (! $this->look->run($project)) {
                $progress(0.1);
            }
            [$learned, $left] = Choices::learn(array_map(static fn (array $one): array => ['one' => $one['one'], 'answers' => array_map(static fn (array $answer): array => [$answer[0], $answer[1]], $one['answers'])], $this->questions->of($codebook, $parts['learned'])));
            $figures = $this->answered($learned, $codebook, $parts['held']);
            $before = $this->before($model);
            $known = $before instanceof Choices ? $this->answered($before, $codebook, $parts['held']) : null;
            $said = ['classes' => $learned->questions(), 'left' => $left, 'things' => [], 'tags' => $learned->options(Then::TAGS)];
        } else {
            $examples = array_values($this->examples->of($codebook, $parts['learned']));
            $classes = self::counted($examples, $codebook, $kind);
            $learned = $kind === LearnedKind::Regions
                ? Regions::learn($examples, array_keys($classes['enough']), 1, $progress)
                : Skeletons::learn($examples, array_intersect_key(self::skeletons($codebook), $classes['enough']), 1, $progress);
            $held = array_values($this->examples->of($codebook, $parts['held']));
            $figures = self::found($learned, $held);
            $before = $this->before($model);
            $known = $before instanceof Regions || $before instanceof Skeletons ? self::found($before, $held) : null;
            $said = ['classes' => array_keys($classes['enough']), 'left' => $classes['left'], 'things' => $classes['enough'], 'nodes' => array_map(static fn (array $one): array => $one['nodes'], $kind === LearnedKind::Skeletons ? array_intersect_key(self::skeletons($codebook), $classes['enough']) : [])];
        }
        // nothing held out, or nothing before it: the newest is taken
        $better = $known === null || $figures['main'] === null || $known['main'] === null ? null : $figures['main']['value'] >= $known['main']['value'];
        // packed before anybody has to wait for it
        $packed = $learned->pack();
        DB::transaction(static function () use ($version, $model, $packed, $figures, $known, $better, $said, $parts, $begin): void {
            $now = ['state' => 'done', 'done' => 1000, 'packed' => $packed, 'figures' => json_encode($figures + ['before' => $known['main'] ?? null]), 'better' => $better, 'learned' => json_encode($said + ['items' => count($parts['learned']), 'held_out' => count($parts['held']), 'seconds' => round(microtime(true) - $begin, 1)])];
            if (ModelVersion::query()->whereKey($version->id)->where('state', 'working')->update($now) === 0) {
                throw Cancelled::byHand();
            }
            if ($better !== false) {
                ModelRow::query()->whereKey($model->id)->update(['version_id' => $version->id]);
            }
            // what can't be gone back to any more is not kept whole; what was measured is
            ModelVersion::query()->where('model_id', $model->id)->where('number', '<', $version->number - self::KEPT)->whereNotIn('id', ModelRow::query()->whereKey($model->id)->whereNotNull('version_id')->select('version_id'))->update(['packed' => null]);
        });
    }

    /** Takes another version into use, say one before. @throws Refusal */
    public function use(ModelRow $model, ModelVersion $version): void
    {
        DB::transaction(static function () use ($model, $version): void {
            if (! ModelVersion::query()->where('model_id', $model->id)->whereKey($version->id)->where('state', 'done')->whereNotNull('packed')->exists()) {
                throw Refusal::because('version_gone', 'only a version that is done, and not too long ago, can be taken into use');
            }
            ModelRow::query()->whereKey($model->id)->update(['version_id' => $version->id]);
        });
    }

    private function before(ModelRow $model): Regions|Skeletons|Choices|null
    {
        $packed = $model->version_id === null ? null : ModelVersion::query()->whereKey($model->version_id)->value('packed');

        return is_string($packed) && $model->learns() !== null ? AskModel::unpacked($model->learns(), $packed) : null;
    }

    /**
     * @param  list<Example>  $held
     * @return array{main: ?array{value: float, low: float, high: float}, items: int, of: array<string, mixed>}
     */
    private static function found(Regions|Skeletons $learned, array $held): array
    {
        $items = [];
        foreach ($held as $example) {
            $found = [];
            foreach ($learned->find($example->part, $example->width, $example->height) as $one) {
                $found[] = ['class' => $one->class, 'confidence' => $one->confidence, 'geometry' => $one->shapes[count($one->shapes) - 1]];
            }
            $items[] = Matched::of($found, $example->things, $example->unknown, $example->width, $example->height);
        }
        $classes = $learned instanceof Regions ? $learned->classes : array_keys($learned->poses);
        $of = [];
        foreach ($classes as $class) {
            $of[$class] = Figures::toArray(Figures::ofClass($items, $class, self::FROM));
        }

        return ['main' => self::mean(array_column($of, 'f1')), 'items' => count($held), 'of' => $of];
    }

    /**
     * @param  list<int>  $held
     * @return array{main: ?array{value: float, low: float, high: float}, items: int, of: array<string, mixed>}
     */
    private function answered(Choices $learned, Codebook $codebook, array $held): array
    {
        $of = [];
        foreach (array_intersect_key($this->questions->of($codebook, $held), array_flip($learned->questions())) as $name => ['one' => $one, 'answers' => $answers]) {
            $items = [];
            foreach ($answers as [$looks, $options, $item]) {
                foreach ($learned->likely($name, $looks) as $option => $sure) {
                    if ($one) {
                        $items[$item][] = $options[0] === (string) $option;

                        break;
                    }
                    $items[$item][] = ($sure >= 0.5) === in_array((string) $option, $options, true);
                }
            }
            $of[$name] = ['there' => count($answers), 'accuracy' => Figures::accuracy(array_values($items))?->toArray()];
        }

        return ['main' => self::mean(array_column($of, 'accuracy')), 'items' => count($held), 'of' => $of];
    }

    /**
     * @param  list<array{value: float, low: float, high: float}|int|null>  $intervals
     * @return ?array{value: float, low: float, high: float} the mean; of its ends too, which makes it wider than it is
     */
    private static function mean(array $intervals): ?array
    {
        $all = array_values(array_filter($intervals, is_array(...)));
        $mean = static fn (string $key): float => round(array_sum(array_column($all, $key)) / count($all), 4);

        return $all === [] ? null : ['value' => $mean('value'), 'low' => $mean('low'), 'high' => $mean('high')];
    }

    /**
     * Classes with enough things to learn from, and why others are left out.
     *
     * @param  list<Example>  $examples
     * @return array{enough: array<string, int>, left: array<string, string>}
     *
     * @throws InvalidValue when there is none
     */
    private static function counted(array $examples, Codebook $codebook, LearnedKind $kind): array
    {
        $counts = [];
        foreach ($codebook->classes as $class) {
            if (! $class->ignore && ($kind === LearnedKind::Skeletons) === ($codebook->skeletonOf($class) !== null)) {
                $counts[$class->key] = 0;
            }
        }
        foreach ($examples as $example) {
            foreach ($example->things as $thing) {
                $shape = Shape::of($thing['geometry']);
                if (isset($counts[$thing['class']]) && ($kind === LearnedKind::Skeletons ? $shape === Shape::Skeleton : in_array($shape, [Shape::Box, Shape::TurnedBox, Shape::Ellipse, Shape::Polygon, Shape::Mask], true))) {
                    $counts[$thing['class']]++;
                }
            }
        }
        $least = $kind === LearnedKind::Skeletons ? \Skeno\Core\Learn\Poses::LEAST : Regions::THINGS;
        $enough = array_filter($counts, static fn (int $n): bool => $n >= $least);
        if ($enough === []) {
            throw InvalidValue::at('accepted', array_sum($counts).' labels', "a class with at least {$least} accepted labels ".($kind === LearnedKind::Skeletons ? 'drawn as skeletons' : 'that cover an area'));
        }

        return ['enough' => $enough, 'left' => array_map(static fn (int $n): string => "{$n} accepted, {$least} are needed", array_diff_key($counts, $enough))];
    }

    /** @return array<string, array{nodes: list<string>, flip: list<int>}> by class */
    private static function skeletons(Codebook $codebook): array
    {
        $skeletons = [];
        foreach ($codebook->classes as $class) {
            $skeleton = $codebook->skeletonOf($class);
            if ($skeleton !== null) {
                $skeletons[$class->key] = ['nodes' => array_map(strval(...), array_keys($skeleton->nodes)), 'flip' => $skeleton->flip()];
            }
        }

        return $skeletons;
    }

    /** A name nobody else in the project has. */
    private static function named(Project $project, LearnedKind $kind): string
    {
        $taken = ModelRow::query()->where('project_id', $project->id)->pluck('name')->all();
        for ($name = $kind->value, $n = 2; in_array($name, $taken, true); $n++) {
            $name = "{$kind->value} {$n}";
        }

        return $name;
    }
}
