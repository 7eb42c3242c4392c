<?php

declare(strict_types=1);

namespace App\Console;

use App\Models\ChatModel;
use App\Prompts\ChatModels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Price;

final class ChatCommand extends SkenoCommand
{
    protected $signature = 'skeno:chat {project : id or exact name; lists its chat models} {name? : connects one under this name, or changes it} {--address= : an address that skeno:models --allow has allowed} {--remote= : what it is called there} {--key-file= : a file with its key, or - for a pipe; it is kept encrypted and never shown} {--price= : for a million tokens read and written, such as 0.5,2} {--tokens=2000 : of a reply at most} {--path=/v1/chat/completions : where at its address it is asked} {--json}';

    protected $description = 'Connect a chat model for prompts, or list them';

    protected function work(): int
    {
        $project = $this->project();
        if ($this->text('name') !== '') {
            $tokens = $this->word('tokens', '') ?? '';
            app(ChatModels::class)->connect(
                $project, $this->text('name'), $this->word('address') ?? throw InvalidValue::at('--address', null, 'an allowed address'), $this->word('remote', $this->text('name')) ?? '', $this->key(), $this->price(),
                $this->word('path', ChatModels::PATH) ?? '', ctype_digit($tokens) && strlen($tokens) < 10 ? (int) $tokens : throw InvalidValue::at('--tokens', $tokens, 'a number'),
            );
        }
        $models = ChatModel::query()->where('project_id', $project->id)->with('endpoint')->orderBy('name')->get()
            ->map(static fn (ChatModel $one): array => ['name' => $one->name, 'address' => $one->endpoint->address, 'path' => $one->path, 'remote' => $one->remote, 'has_key' => $one->secret !== null, 'price' => $one->price, 'most_tokens' => $one->most_tokens])->values()->all();
        $this->line($this->option('json') === true ? $this->json(['models' => $models]) : ($models === [] ? 'This project has no chat model yet.' : implode("\n", array_map(static fn (array $one): string => "{$one['name']}: {$one['remote']} at {$one['address']}{$one['path']}, ".($one['has_key'] ? 'with a key' : 'without a key'), $models))));

        return self::DONE;
    }

    private function key(): ?string
    {
        $file = $this->word('key-file');
        if ($file === null) {
            return null;
        }
        $read = $file === '-' || is_file($file) ? file_get_contents($file === '-' ? 'php://stdin' : $file, length: 2000) : false;

        return $read === false ? throw InvalidValue::at('--key-file', $file, 'a file that can be read') : trim($read);
    }

    private function price(): ?Price
    {
        $word = $this->word('price');
        if ($word === null) {
            return null;
        }
        $parts = explode(',', $word);
        if (count($parts) !== 2 || ! is_numeric(trim($parts[0])) || ! is_numeric(trim($parts[1]))) {
            throw InvalidValue::at('--price', $word, 'two numbers with a comma, such as 0.5,2');
        }

        return Price::of((float) trim($parts[0]), (float) trim($parts[1]), '--price');
    }
}
