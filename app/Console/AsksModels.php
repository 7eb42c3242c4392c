<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\AskModel;
use App\Help\Models;
use App\Items\FindItems;
use App\Models\ModelRow;
use App\Models\Project;
use Skeno\Core\Inference\Knows;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\InvalidValue;

/** The words of commands that ask a model: `--then`, `--confidence`, `--classes`, `--nodes`, `--tags`, `--set`, `--where`. */
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

    /** Which of the model's names is which, as far as it is said; else by what is called alike. Once something is said, the rest is left out. */
    private function mapping(Project $project, Knows $knows): Mapping
    {
        $alike = Mapping::alike($project->codebookVersion()->codebook(), $knows);
        $classes = $this->pairs('classes');
        $tags = $this->pairs('tags');
        $nodes = $this->pairs('nodes');
        if ($classes === null && $tags === null && $nodes === null) {
            return $alike;
        }
        $of = [];
        foreach ($nodes ?? [] as $theirs => $ours) {
            [$class, $node] = [...explode('.', $ours, 2), ''];
            $of[$class][$theirs] = $node;
        }
        // nodes alone correct what was found by name
        $named = $classes === null && $tags === null;

        return new Mapping($classes ?? ($named ? $alike->classes : []), $nodes === null ? [] : $of, $tags ?? ($named ? $alike->tags : []));
    }

    /** @return ?array<string, string> keys by the model's names; null: nothing was said */
    private function pairs(string $option): ?array
    {
        $word = $this->word($option);
        if ($word === null) {
            return null;
        }
        $pairs = [];
        foreach (explode(',', $word) as $pair) {
            [$theirs, $key] = [...explode('=', $pair, 2), ''];
            $pairs[trim($theirs)] = trim($key) === '' ? trim($theirs) : trim($key);
        }

        return $pairs;
    }
}
