<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Run;
use App\Support\Refusal;

/** The models of pictures, as runs ask them. */
final readonly class ModelFinders implements Finders
{
    public function __construct(private AskModel $ask, private Models $models)
    {
    }

    public function of(Run $run): ?Finder
    {
        if ($run->prompt_version_id !== null) {
            return null;
        }

        return new ModelFinder($this->ask, $this->models, $run->asked ?? throw Refusal::because('model_gone', 'its model is not there any more'), $this->models->then($run->project_id, $run->wish['then'] ?? null), $run);
    }
}
