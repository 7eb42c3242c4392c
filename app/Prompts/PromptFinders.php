<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Files\TextStore;
use App\Help\Finder;
use App\Help\Finders;
use App\Models\Run;
use App\Support\Refusal;

/** Prompts, as runs ask them. */
final readonly class PromptFinders implements Finders
{
    public function __construct(private AskChat $ask, private TextStore $texts)
    {
    }

    public function of(Run $run): ?Finder
    {
        if ($run->prompt_version_id === null) {
            return null;
        }
        $version = $run->prompt ?? throw Refusal::because('prompt_gone', 'its prompt is not there any more');

        return new PromptFinder($this->ask, $this->texts, $version, $version->asked ?? throw Refusal::because('model_gone', 'its chat model is not there any more'));
    }
}
