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
use App\Support\Patience;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\ReplyReader;
use Skeno\Core\Prompt\Said;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Text\Text;
use Skeno\Core\Workflow\Selection;

/** A version of a prompt tried on accepted texts, before it is let near others. What is accepted is never sent: only the prompt and the text are. */
final class PromptTrials
{
    /** Texts of a trial at most. */
    public const MOST = 500;

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
        $there = array_values(array_filter(self::accepted($project), static fn (int $id): bool => isset($wanted[$id])));
        if ($there === []) {
            throw InvalidValue::at('items', count($items), 'at least one accepted text among them');
        }

        return $this->put($project, $version, $by, Selection::random($most, $seed)->from($there), $queued);
    }

    /**
     * Tries another version on the texts of a trial, so that the two can be held against each other.
     *
     * @throws InvalidValue when none of them is accepted any more
     */
    public function beginAs(PromptTrial $other, PromptVersion $version, ?User $by, bool $queued = true): PromptTrial
    {
        $there = array_flip(self::accepted($other->project));
        $ids = array_values(array_filter($other->items, static fn (int $id): bool => isset($there[$id])));
        if ($ids === []) {
            throw InvalidValue::at('as', $other->id, 'a trial of which a text is accepted still');
        }

        return $this->put($other->project, $version, $by, $ids, $queued);
    }

    /** @return list<int> ids of the texts that are accepted, in their order */
    private static function accepted(Project $project): array
    {
        return array_values(Item::query()->where('project_id', $project->id)->whereNull('archived_at')->where('state', 'accepted')->where('kind', 'text')->orderBy('id')->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all());
    }

    /** @param  list<int>  $ids */
    private function put(Project $project, PromptVersion $version, ?User $by, array $ids, bool $queued): PromptTrial
    {
        $version->asks($project->codebookVersion()->codebook());

        return DB::transaction(static function () use ($project, $version, $by, $ids, $queued): PromptTrial {
            $trial = new PromptTrial;
            $trial->forceFill(['project_id' => $project->id, 'prompt_version_id' => $version->id, 'created_by' => $by?->id, 'items' => $ids, 'total' => count($ids)])->save();
            if ($queued) {
                dispatch(new TryPrompt($trial->id));
            }

            return $trial->refresh();
        });
    }

    /**
     * Goes on with one that has failed or was stopped, and with one that is done asks again about the texts that failed.
     */
    public function resume(PromptTrial $trial): void
    {
        DB::transaction(static function () use ($trial): void {
            $now = PromptTrial::query()->findOrFail($trial->id);
            $answered = DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->whereNotNull('result')->count();
            if (in_array($now->state, ['waiting', 'working'], true) || $answered === $now->total) {
                throw Refusal::because('nothing_to_go_on_with', 'it goes on already, or all of its texts were answered about');
            }
            DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->whereNull('result')->delete();
            $now->forceFill(['state' => 'waiting', 'error' => '', 'done' => $answered])->save();
            dispatch(new TryPrompt($now->id));
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
        $task = $trial->version->asks($codebook);
        $system = $trial->version->template()->filled($codebook, $task);
        $until = microtime(true) + $seconds;
        $patience = new Patience;
        foreach (array_diff($trial->items, self::asked($trial)) as $id) {
            if (microtime(true) >= $until) {
                return false;
            }
            $row = ['prompt_trial_id' => $trial->id, 'item_id' => $id, 'path' => null, 'result' => null, 'compared' => null, 'failed' => 'it is gone, or not accepted any more', 'seconds' => 0.0, 'tokens_in' => null, 'tokens_out' => null];
            $item = Item::query()->where('project_id', $trial->project_id)->where('state', 'accepted')->with('asset')->find($id);
            if ($item !== null) {
                $begun = hrtime(true);
                $row['path'] = $item->path;
                try {
                    $text = $this->texts->of($item->asset);
                    $said = ($this->ask)($trial->version->asked ?? throw Refusal::because('model_gone', 'its chat model is not there any more'), $system, $text->body);
                    $row = self::results($item, $text, $said, $codebook, $task) + ['failed' => '', 'tokens_in' => $said->in, 'tokens_out' => $said->out] + $row;
                    $patience->answered();
                } catch (Refusal|InvalidValue $e) {
                    $row['failed'] = $patience->failed($e);
                }
                $row['seconds'] = (hrtime(true) - $begun) / 1e9;
            }
            DB::transaction(static function () use ($trial, $row): void {
                // stopped, or somebody else goes on with it
                if (PromptTrial::query()->whereKey($trial->id)->value('state') !== 'working' || DB::table('prompt_trial_items')->insertOrIgnore($row) === 0) {
                    throw Cancelled::byHand();
                }
                PromptTrial::query()->whereKey($trial->id)->increment('done');
            });
        }
        PromptTrial::query()->whereKey($trial->id)->where('state', 'working')->update(['state' => 'done']);

        return true;
    }

    /** @return list<int> ids of its texts that were asked about, whatever came of it */
    private static function asked(PromptTrial $trial): array
    {
        return array_values(DB::table('prompt_trial_items')->where('prompt_trial_id', $trial->id)->pluck('item_id')->map(static fn (mixed $id): int => (int) $id)->all());
    }

    /** @return array{result: string, compared: string} JSON: `{counts, agreed, tags, said, mended, left, why: {mended, left}, fault}`, and `{pairs, answers, tags}` */
    private static function results(Item $item, Text $text, Said $said, Codebook $codebook, Task $task): array
    {
        $reply = ReplyReader::read($said->words, $text, $codebook, $task);
        $marks = array_values(MarkRow::query()->where('item_id', $item->id)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')->where('kind', 'span')->orderBy('id')->get()->map(static fn (MarkRow $mark): Mark => $mark->mark())->all());
        $compared = Compared::reply($reply, $marks, Layers::agreed($item->id)->said(), $task);
        $kept = $compared->toArray();

        return array_map(static fn (array $data): string => json_encode($data, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE), [
            'result' => [
                'counts' => (object) $compared->counts(), 'agreed' => (object) $compared->agreed(), 'tags' => (object) $compared->tags,
                'said' => $reply->toArray(),
                'mended' => count($reply->mended), 'left' => count($reply->left), 'why' => ['mended' => array_slice($reply->mended, 0, self::SHOWN), 'left' => array_slice($reply->left, 0, self::SHOWN)], 'fault' => $said->fault,
            ],
            'compared' => ['answers' => (object) $kept['answers'], 'tags' => (object) $kept['tags']] + $kept,
        ]);
    }
}
