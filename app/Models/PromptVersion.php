<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;

/**
 * What a prompt says, whom it asks and what for. It never changes: other words are another version.
 *
 * @property int $id
 * @property int $prompt_id
 * @property int $number from 1 within the prompt
 * @property ?int $chat_model_id
 * @property array{classes: list<string>, questions: list<string>, tags: list<string>} $task
 * @property string $words
 * @property ?int $created_by
 * @property ?CarbonImmutable $created_at
 * @property Prompt $prompt
 * @property ?ChatModel $asked
 */
final class PromptVersion extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['task' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Prompt, $this> */
    public function prompt(): BelongsTo
    {
        return $this->belongsTo(Prompt::class);
    }

    /** @return BelongsTo<ChatModel, $this> */
    public function asked(): BelongsTo
    {
        return $this->belongsTo(ChatModel::class, 'chat_model_id');
    }

    public function template(): Template
    {
        return Template::of($this->words);
    }

    /**
     * What it asks for, without what a codebook has no more.
     *
     * @throws InvalidValue when nothing is left of it
     */
    public function asks(Codebook $codebook): Task
    {
        return Task::fromStored($this->task, $codebook) ?? throw InvalidValue::at('version', $this->number, 'a version that asks for what the codebook still has');
    }
}
