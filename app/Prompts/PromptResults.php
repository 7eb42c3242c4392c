<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Files\TextStore;
use App\Models\Item;
use App\Models\PromptTrial;
use App\Support\Refusal;
use Illuminate\Database\Eloquent\ModelNotFoundException;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\LazyCollection;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\PromptFigures;
use Skeno\Core\Prompt\Said;
use Skeno\Core\Trial\Interval;
use stdClass;

/** What came of trials of prompts: figures, the texts one by one, and what changed from one version to another. */
final readonly class PromptResults
{
    public function __construct(private TextStore $texts)
    {
    }

    /**
     * What came of it so far.
     *
     * @return array{items: int, classes: array<string, mixed>, all: array<string, mixed>, answers: array<string, mixed>, tags: array<string, mixed>, mended: int, left: int, cut: int, failed: list<array{item: int, path: ?string, reason: string}>, cost: ?float, uncounted: int, seconds: float} cost: null when the price is not known; uncounted: texts of which the server did not say how much they were
     */
    public function figures(PromptTrial $trial): array
    {
        $task = $trial->version->task;
        $price = $trial->version->asked?->price();
        $counts = $agreed = $tags = $failed = [];
        $sums = ['mended' => 0, 'left' => 0, 'cut' => 0, 'uncounted' => 0];
        $cost = $seconds = 0.0;
        foreach (DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->orderBy('id')->cursor() as $row) {
            $seconds += (float) $row->seconds;
            if ($row->result === null) {
                $failed[] = ['item' => (int) $row->item_id, 'path' => $row->path, 'reason' => (string) $row->failed];

                continue;
            }
            $result = json_decode((string) $row->result, true);
            $counts[] = $result['counts'];
            foreach ($task['questions'] as $question) {
                $agreed[$question][] = $result['agreed'][$question] ?? null;
            }
            foreach ($task['tags'] as $tag) {
                $tags[$tag][] = ($result['tags'][$tag]['known'] ?? false) === ($result['tags'][$tag]['said'] ?? false);
            }
            $sums['mended'] += $result['mended'];
            $sums['left'] += $result['left'];
            $sums['cut'] += $result['fault'] === null ? 0 : 1;
            $cost += self::cost($trial, $row) ?? 0.0;
            $sums['uncounted'] += $row->tokens_in === null || $row->tokens_out === null ? 1 : 0;
        }
        $classes = [];
        foreach ($task['classes'] as $class) {
            $classes[$class] = self::spans($counts, $class);
        }
        $agreement = static fn (array $items): ?array => PromptFigures::agreement(array_values($items))?->toArray();

        return [
            'items' => count($counts), 'classes' => $classes, 'all' => self::spans($counts, null), 'answers' => array_map($agreement, $agreed), 'tags' => array_map($agreement, $tags),
            'mended' => $sums['mended'], 'left' => $sums['left'], 'cut' => $sums['cut'], 'failed' => $failed,
            'cost' => $price === null ? null : round($cost, 6), 'uncounted' => $sums['uncounted'], 'seconds' => round($seconds, 2),
        ];
    }

    /**
     * @param  list<array<string, array{known: int, said: int, exact: int, overlapping: int}>>  $counts
     * @return array<string, mixed>
     */
    private static function spans(array $counts, ?string $class): array
    {
        $figures = PromptFigures::ofSpans($counts, $class);
        $shown = static fn (array $of): array => array_map(static fn (?Interval $one): ?array => $one?->toArray(), $of);

        return ['exact' => $shown($figures['exact']), 'overlapping' => $shown($figures['overlapping'])] + $figures;
    }

    /**
     * Its texts, in the order they were tried: what was right, missing, too much and bounded otherwise on each.
     *
     * @return list<array{item: int, path: ?string, right: int, missing: int, extra: int, bounded: int, wrong: int, left: int, failed: string}> wrong: answers and tags that are not as known; left: places of the reply that could not be used
     */
    public function texts(PromptTrial $trial): array
    {
        $texts = [];
        foreach (DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->orderBy('id')->cursor() as $row) {
            $result = $row->result === null ? null : json_decode((string) $row->result, true);
            $sums = ['known' => 0, 'said' => 0, 'exact' => 0, 'overlapping' => 0];
            foreach ($result['counts'] ?? [] as $counts) {
                foreach ($counts as $what => $many) {
                    $sums[$what] += $many;
                }
            }
            $wrong = count(array_filter($result['agreed'] ?? [], static fn (bool $right): bool => ! $right)) + count(array_filter($result['tags'] ?? [], static fn (array $tag): bool => $tag['known'] !== $tag['said']));
            $texts[] = ['item' => (int) $row->item_id, 'path' => $row->path, 'right' => $sums['exact'], 'missing' => $sums['known'] - $sums['overlapping'], 'extra' => $sums['said'] - $sums['overlapping'], 'bounded' => $sums['overlapping'] - $sums['exact'], 'wrong' => $wrong, 'left' => (int) ($result['left'] ?? 0), 'failed' => (string) $row->failed];
        }

        return $texts;
    }

    /**
     * One of its texts side by side: what is known, what was said.
     *
     * @return array{item: int, path: ?string, text: string, pairs: list<array{class: string, known: ?array{int, int}, said: ?array{int, int}}>, answers: object, tags: object, mended: list<array{what: string, how: string}>, left: list<array{what: string, why: string}>, cut: ?string, failed: string, seconds: float, cost: ?float}
     *
     * @throws ModelNotFoundException<Item> when it is none of them
     * @throws Refusal when its text is not there any more
     */
    public function text(PromptTrial $trial, int $item): array
    {
        $row = DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->where('item_id', $item)->first() ?? throw (new ModelNotFoundException)->setModel(Item::class, $item);
        $of = Item::query()->where('project_id', $trial->project_id)->with('asset')->find($item) ?? throw Refusal::because('item_gone', 'this text is not there any more');
        $result = $row->result === null ? [] : json_decode((string) $row->result, true);
        $compared = self::compared($row) ?? ['pairs' => [], 'answers' => [], 'tags' => []];

        return [
            'item' => $of->id, 'path' => $row->path, 'text' => $this->texts->of($of->asset)->body,
            'pairs' => $compared['pairs'], 'answers' => (object) $compared['answers'], 'tags' => (object) $compared['tags'],
            'mended' => $result['why']['mended'] ?? [], 'left' => $result['why']['left'] ?? [], 'cut' => $result['fault'] ?? null, 'failed' => (string) $row->failed,
            'seconds' => round((float) $row->seconds, 2), 'cost' => self::cost($trial, $row),
        ];
    }

    /**
     * Held against a trial of another version, on the texts both were answered about.
     *
     * @return array{items: int, exact: ?array<string, float>, overlapping: ?array<string, float>, answers: array<string, ?array<string, float>>, changed: list<array{item: int, path: ?string, better: int, worse: int}>} gains of this one, each with an interval; better: things that were wrong and are not any more; worse: the other way round; the texts that changed most first
     */
    public function against(PromptTrial $trial, PromptTrial $before): array
    {
        $theirs = [];
        foreach (self::answered($before) as $row) {
            $theirs[(int) $row->item_id] = $row;
        }
        $results = static fn (stdClass $row): array => json_decode((string) $row->result, true);
        $both = $changed = [];
        foreach (self::answered($trial) as $row) {
            $other = $theirs[(int) $row->item_id] ?? null;
            if ($other === null) {
                continue;
            }
            $both[] = [$results($other), $results($row)];
            [$were, $are] = [self::errors($other), self::errors($row)];
            [$better, $worse] = [count(array_diff($were, $are)), count(array_diff($are, $were))];
            if ($better + $worse > 0) {
                $changed[] = ['item' => (int) $row->item_id, 'path' => $row->path, 'better' => $better, 'worse' => $worse];
            }
        }
        usort($changed, static fn (array $a, array $b): int => [$b['better'] + $b['worse'], $a['item']] <=> [$a['better'] + $a['worse'], $b['item']]);
        $counts = static fn (int $which): array => array_map(static fn (array $two): array => $two[$which]['counts'], $both);
        $agreed = static fn (int $which, string $question): array => array_map(static fn (array $two): ?bool => $two[$which]['agreed'][$question] ?? null, $both);
        $gain = PromptFigures::gain($counts(0), $counts(1));
        $answers = [];
        foreach ($trial->version->task['questions'] as $question) {
            $answers[$question] = PromptFigures::agreementGain($agreed(0, $question), $agreed(1, $question))?->toArray();
        }

        return ['items' => count($both), 'exact' => $gain['exact']?->toArray(), 'overlapping' => $gain['overlapping']?->toArray(), 'answers' => $answers, 'changed' => $changed];
    }

    /** @return LazyCollection<int, stdClass> its texts that were answered about */
    private static function answered(PromptTrial $trial): LazyCollection
    {
        return DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->whereNotNull('result')->orderBy('id')->cursor();
    }

    /** @return list<string> what was wrong on a text */
    private static function errors(stdClass $row): array
    {
        $kept = self::compared($row);

        return $kept === null ? [] : Compared::errors($kept);
    }

    /** @return ?array{pairs: list<array{class: string, known: ?array{int, int}, said: ?array{int, int}}>, answers: array<string, array{agreed: ?bool, ...}>, tags: array<string, array{known: bool, said: bool}>} null: it was tried before this was kept, or failed */
    private static function compared(stdClass $row): ?array
    {
        return $row->compared === null ? null : json_decode((string) $row->compared, true);
    }

    private static function cost(PromptTrial $trial, stdClass $row): ?float
    {
        return $trial->version->asked?->price()?->cost(new Said('', $row->tokens_in === null ? null : (int) $row->tokens_in, $row->tokens_out === null ? null : (int) $row->tokens_out, null));
    }
}
