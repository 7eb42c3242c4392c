<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Help\Endpoints;
use App\Models\ChatModel;
use App\Models\Project;
use App\Models\PromptTrial;
use App\Models\PromptVersion;
use App\Models\Run;
use App\Support\Refusal;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Price;

/** The chat models of a project, and their keys. */
final class ChatModels
{
    public const PATH = '/v1/chat/completions';

    /** Tokens of a reply, when nobody says. */
    public const TOKENS = 2000;

    public function __construct(private readonly Endpoints $endpoints)
    {
    }

    /**
     * Connects a chat model, or changes one that is there; a key that is not given stays.
     *
     * @param  string  $address  an allowed one
     * @param  string  $remote  what it is called there
     * @param  ?string  $secret  its key: kept encrypted, never shown again
     *
     * @throws InvalidValue
     */
    public function connect(Project $project, string $name, string $address, string $remote, ?string $secret, ?Price $price = null, string $path = self::PATH, int $tokens = self::TOKENS): ChatModel
    {
        foreach (['name' => [$name, 100], 'remote' => [$remote, 200]] as $what => [$word, $most]) {
            if (preg_match('/^[^\p{C}]{1,'.$most.'}$/uD', $word) !== 1 || trim($word) !== $word) {
                throw InvalidValue::at($what, $word, "a name of at most {$most} characters");
            }
        }
        if (preg_match('#^(?:/[\w.~\-]+){1,8}$#D', $path) !== 1 || strlen($path) > 200) {
            throw InvalidValue::at('path', $path, 'a path such as '.self::PATH);
        }
        // it becomes a header: what could end one is no key
        if ($secret !== null && preg_match('/^[\x21-\x7e]{1,1000}$/D', $secret) !== 1) {
            throw InvalidValue::at('key', '…', 'letters, digits and signs of ASCII without spaces, at most 1000');
        }
        if ($tokens < 1 || $tokens > 100_000) {
            throw InvalidValue::at('most_tokens', $tokens, '1 to 100,000');
        }
        $endpoint = $this->endpoints->listed($address);

        return DB::transaction(static function () use ($project, $name, $endpoint, $remote, $secret, $price, $path, $tokens): ChatModel {
            $model = ChatModel::query()->where('project_id', $project->id)->where('name', $name)->first() ?? new ChatModel;
            // a key goes to the address it was given for and nowhere else
            $kept = $model->exists && $model->endpoint_id === $endpoint->id ? $model->secret : null;
            $model->forceFill(['project_id' => $project->id, 'name' => $name, 'endpoint_id' => $endpoint->id, 'remote' => $remote, 'path' => $path, 'secret' => $secret === null ? $kept : Crypt::encryptString($secret), 'price' => $price?->toArray(), 'most_tokens' => $tokens])->save();

            return $model->setRelation('endpoint', $endpoint);
        });
    }

    /** Takes one away with its key, unless it is at work; the prompts that asked it stay. */
    public function disconnect(ChatModel $model): void
    {
        // decided and done at once: a run that begins meanwhile finds it or does not
        DB::transaction(static function () use ($model): void {
            $versions = PromptVersion::query()->where('chat_model_id', $model->id)->select('id');
            if (PromptTrial::query()->whereIn('prompt_version_id', $versions)->whereIn('state', ['waiting', 'working'])->exists() || Run::query()->whereIn('prompt_version_id', $versions)->whereIn('state', ['waiting', 'working', 'paused'])->exists()) {
                throw Refusal::because('model_at_work', 'a run or a trial that asks it is going on: stop it first');
            }
            $model->delete();
        });
    }

    /** @throws InvalidValue */
    public function named(Project $project, string $name): ChatModel
    {
        return ChatModel::query()->where('project_id', $project->id)->where('name', $name)->with('endpoint')->first() ?? throw InvalidValue::at('model', $name, 'a chat model of this project: '.(ChatModel::query()->where('project_id', $project->id)->orderBy('name')->pluck('name')->implode(', ') ?: 'there is none yet'));
    }
}
