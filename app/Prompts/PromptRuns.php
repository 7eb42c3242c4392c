<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Help\Runs;
use App\Models\Item;
use App\Models\Project;
use App\Models\PromptVersion;
use App\Models\Run;
use App\Models\User;
use App\Support\Refusal;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Price;
use Skeno\Core\Prompt\Said;

/** Prompts run over texts nobody has labelled yet: the same runs as those of models, with the same suggestions. */
final readonly class PromptRuns
{
    public function __construct(private Runs $runs)
    {
    }

    /**
     * @param  string  $stays  as Runs has it
     * @param  list<int>  $items  ids that are looked for; the texts among them that are not accepted count
     *
     * @throws InvalidValue|Refusal
     */
    public function begin(Project $project, PromptVersion $version, ?User $by, string $stays, array $items, bool $queued = true): Run
    {
        $model = $version->asked ?? throw Refusal::because('model_gone', 'its chat model is not there any more');
        $version->asks($project->codebookVersion()->codebook());
        $texts = array_flip(Item::query()->where('project_id', $project->id)->whereNull('archived_at')->where('kind', 'text')->where('state', '!=', 'accepted')->pluck('id')->all());
        $wanted = array_values(array_filter($items, static fn (int $id): bool => isset($texts[$id])));
        if ($wanted === []) {
            throw InvalidValue::at('items', count($items), 'at least one text among them that is not accepted');
        }

        return $this->runs->put($project, $by, ['model' => "{$version->prompt->name}, version {$version->number} ({$model->name})", 'prompt_version_id' => $version->id], [], $stays, $wanted, $queued)->load('prompt.asked');
    }

    /** What a run has cost so far, by what its server counted; null when the price is not known, or it is no run of a prompt. */
    public static function cost(Run $run, ?Price $price): ?float
    {
        $sums = $run->report['sums'] ?? [];

        return $price === null ? null : $price->cost(new Said('', $sums['tokens_in'] ?? 0, $sums['tokens_out'] ?? 0, null));
    }
}
