<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Models\ChatModel;
use App\Models\Project;
use App\Models\Prompt;
use App\Models\PromptVersion;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;

/** The prompts of a project, version by version. */
final class Prompts
{
    /** Saves a version; the same as the last is no other. */
    public function save(Project $project, string $name, ChatModel $model, Task $task, Template $template, ?User $by): PromptVersion
    {
        if (preg_match('/^[^\p{C}]{1,100}$/uD', $name) !== 1 || trim($name) !== $name) {
            throw InvalidValue::at('name', $name, 'a name of at most 100 characters');
        }
        if ($model->project_id !== $project->id) {
            throw InvalidValue::at('model', $model->name, 'a chat model of this project');
        }

        return DB::transaction(static function () use ($project, $name, $model, $task, $template, $by): PromptVersion {
            $prompt = Prompt::query()->where('project_id', $project->id)->where('name', $name)->first() ?? new Prompt;
            $prompt->forceFill(['project_id' => $project->id, 'name' => $name])->save();
            $last = PromptVersion::query()->where('prompt_id', $prompt->id)->orderByDesc('number')->first();
            $is = ['chat_model_id' => $model->id, 'task' => $task->toArray(), 'words' => $template->words];
            if ($last !== null && [$last->chat_model_id, $last->task, $last->words] === array_values($is)) {
                return $last;
            }
            $version = new PromptVersion;
            $version->forceFill($is + ['prompt_id' => $prompt->id, 'number' => 1 + ($last->number ?? 0), 'created_by' => $by?->id])->save();

            return $version;
        });
    }

    /**
     * @param  ?int  $number  null: the last
     *
     * @throws InvalidValue when it is not there
     */
    public function version(Project $project, string $name, ?int $number = null): PromptVersion
    {
        $prompt = Prompt::query()->where('project_id', $project->id)->where('name', $name)->first() ?? throw InvalidValue::at('prompt', $name, 'a prompt of this project: '.(Prompt::query()->where('project_id', $project->id)->orderBy('name')->pluck('name')->implode(', ') ?: 'there is none yet'));

        return PromptVersion::query()->where('prompt_id', $prompt->id)->when($number !== null, static fn ($all) => $all->where('number', $number))->with(['asked.endpoint', 'prompt'])->orderByDesc('number')->first() ?? throw InvalidValue::at('version', $number, 'a version of it');
    }
}
