<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Files\TextStore;
use App\Items\Layers;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\PromptTrial;
use App\Models\PromptVersion;
use App\Models\User;
use App\Support\Cancelled;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\PromptFigures;
use Skeno\Core\Prompt\ReplyReader;
use Skeno\Core\Prompt\Said;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Text\Text;
use Skeno\Core\Trial\Interval;
use Skeno\Core\Workflow\Selection;

/** A version of a prompt tried on accepted texts, before it is let near others. What is accepted is never sent: only the prompt and the text are. */
final class PromptTrials
{
    /** Texts of a trial at most. */
    public const MOST = 500;

    /** Texts with a failure in a row after which the model is taken for gone. */
    private const GIVES_UP = 5;

    /** Places kept of a reply that were mended or left out; of thousands, more say no more. */
    private const SHOWN = 200;

    /** Seconds after which a job leaves the rest to another. */
    public const SLICE = 300.0;

    public function __construct(private readonly AskChat $ask, private readonly TextStore $texts)
    {
    }

    /**
     * @param  list<int>  $items  ids that are looked for; the accepted texts among them count
     * @param  int  $most  of them, drawn by the seed
     *
     * @throws InvalidValue when there is none to try it on
     */
    public function begin(Project $project, PromptVersion $version, ?User $by, array $items, int $most, int $seed, bool $queued = true): PromptTrial
    {
        if ($most < 1 || $most > self::MOST) {
            throw InvalidValue::at('limit', $most, '1 to '.self::MOST.' texts');
        }
        $wanted = array_flip($items);
        $there = array_values(array_filter(Item::query()->where('project_id', $project->id)->whereNull('archived_at')->where('state', 'accepted')->where('kind', 'text')->orderBy('id')->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all(), static fn (int $id): bool => isset($wanted[$id])));
        if ($there === []) {
            throw InvalidValue::at('items', count($items), 'at least one accepted text among them');
        }
        $task = Task::fromStored($version->task, $project->codebookVersion()->codebook());
        if ($task === null) {
            throw InvalidValue::at('version', $version->number, 'a version that asks for what the codebook still has');
        }
        $ids = Selection::random($most, $seed)->from($there);

        return DB::transaction(static function () use ($project, $version, $by, $ids, $queued): PromptTrial {
            $trial = new PromptTrial;
            $trial->forceFill(['project_id' => $project->id, 'prompt_version_id' => $version->id, 'created_by' => $by?->id, 'items' => $ids, 'total' => count($ids)])->save();
            if ($queued) {
                dispatch(new TryPrompt($trial->id));
            }

            return $trial->refresh();
        });
    }

    public function cancel(PromptTrial $trial): void
    {
        PromptTrial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working', 'failed'])->update(['state' => 'cancelled']);
    }

    /**
     * Goes on with it for a while.
     *
     * @return bool whether it is done
     *
     * @throws Cancelled when it was stopped meanwhile
     * @throws Refusal|InvalidValue when the model does not answer any more
     */
    public function work(PromptTrial $trial, float $seconds = self::SLICE): bool
    {
        if (PromptTrial::query()->whereKey($trial->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working', 'error' => '']) === 0) {
            throw Cancelled::byHand();
        }
        $codebook = $trial->project->codebookVersion()->codebook();
        $task = Task::fromStored($trial->version->task, $codebook) ?? throw InvalidValue::at('version', $trial->version->number, 'a version that asks for what the codebook still has');
        $system = $trial->version->template()->filled($codebook, $task);
        $until = microtime(true) + $seconds;
        $failures = 0;
        foreach (array_slice($trial->items, $trial->done) as $id) {
            if (microtime(true) >= $until) {
                return false;
            }
            $row = ['prompt_trial_id' => $trial->id, 'item_id' => $id, 'path' => null, 'result' => null, 'failed' => 'it is gone, or not accepted any more', 'seconds' => 0.0, 'tokens_in' => null, 'tokens_out' => null];
            $item = Item::query()->where('project_id', $trial->project_id)->where('state', 'accepted')->with('asset')->find($id);
            if ($item !== null) {
                $begun = hrtime(true);
                $row['path'] = $item->path;
                try {
                    $text = $this->texts->of($item->asset);
                    $said = ($this->ask)($trial->version->asked ?? throw Refusal::because('model_gone', 'its chat model is not there any more'), $system, $text->body);
                    $row = ['result' => json_encode(self::result($item, $text, $said, $codebook, $task), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE), 'failed' => '', 'tokens_in' => $said->in, 'tokens_out' => $said->out] + $row;
                    $failures = 0;
                } catch (Refusal|InvalidValue $e) {
                    if (++$failures >= self::GIVES_UP) {
                        throw $e;
                    }
                    $row['failed'] = $e->getMessage();
                }
                $row['seconds'] = (hrtime(true) - $begun) / 1e9;
            }
            DB::transaction(static function () use ($trial, $row): void {
                $now = PromptTrial::query()->select(['id', 'state', 'done'])->findOrFail($trial->id);
                // stopped, or somebody else goes on with it
                if ($now->state !== 'working' || $now->done !== $trial->done) {
                    throw Cancelled::byHand();
                }
                DB::table('prompt_trial_items')->insert($row);
                $now->forceFill(['done' => $now->done + 1])->save();
                $trial->done = $now->done;
            });
        }
        PromptTrial::query()->whereKey($trial->id)->where('state', 'working')->update(['state' => 'done']);

        return true;
    }

    /** @return array<string, mixed> `{counts, agreed, tags, said, mended, left, why: {mended, left}, fault}` */
    private static function result(Item $item, Text $text, Said $said, Codebook $codebook, Task $task): array
    {
        $reply = ReplyReader::read($said->words, $text, $codebook, $task);
        $marks = array_values(MarkRow::query()->where('item_id', $item->id)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')->where('kind', 'span')->orderBy('id')->get()->map(static fn (MarkRow $mark): Mark => $mark->mark())->all());
        $compared = Compared::reply($reply, $marks, Layers::agreed($item->id)->said(), $task);

        return [
            'counts' => (object) $compared->counts(), 'agreed' => (object) $compared->agreed(), 'tags' => (object) $compared->tags,
            'said' => $reply->toArray(),
            'mended' => count($reply->mended), 'left' => count($reply->left), 'why' => ['mended' => array_slice($reply->mended, 0, self::SHOWN), 'left' => array_slice($reply->left, 0, self::SHOWN)], 'fault' => $said->fault,
        ];
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
            $of = $price?->cost(new Said('', $row->tokens_in === null ? null : (int) $row->tokens_in, $row->tokens_out === null ? null : (int) $row->tokens_out, null));
            $cost += $of ?? 0.0;
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
}
