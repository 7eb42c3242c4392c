<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\AskModel;
use App\Help\Models;
use App\Items\FindItems;
use App\Models\ModelRow;
use App\Models\Project;
use Skeno\Core\InvalidValue;

/** The words of commands that ask a model: `--then`, `--confidence`, `--classes`, `--set`, `--where`. */
trait AsksModels
{
    private function confidence(): float
    {
        $word = $this->word('confidence', '0.5') ?? '';

        return is_numeric($word) ? (float) $word : throw InvalidValue::at('--confidence', $word, '0 to 1');
    }

    private function then(Models $models, Project $project): string|ModelRow|null
    {
        $word = $this->word('then');

        return $models->then($project->id, $word === null || $word === AskModel::OUTLINE ? $word : $models->named($project, $word)->id);
    }

    /** @return list<int> ids of the items that are meant */
    private function wanted(Project $project): array
    {
        $set = $this->word('set');

        return app(FindItems::class)($project, [...($set === null ? [] : ["set:{$set}"]), ...array_map(strval(...), (array) $this->option('where'))])->ids();
    }

    /** @return ?array<string, string> keys of classes by the model's names; null: nothing was said */
    private function mapped(): ?array
    {
        $word = $this->word('classes');
        if ($word === null) {
            return null;
        }
        $classes = [];
        foreach (explode(',', $word) as $pair) {
            [$theirs, $key] = [...explode('=', $pair, 2), ''];
            $classes[trim($theirs)] = trim($key) === '' ? trim($theirs) : trim($key);
        }

        return $classes;
    }
}
