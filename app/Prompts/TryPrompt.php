<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Models\PromptTrial;
use App\Support\RowJob;

final class TryPrompt extends RowJob
{
    protected static function rows(): string
    {
        return PromptTrial::class;
    }

    protected static function name(): string
    {
        return 'prompt-trial';
    }

    protected function work(): void
    {
        // a slow model takes hours, and no job does: the rest is another's, and where that is lost, it is found by what it waits for
        if (! app(PromptTrials::class)->work(PromptTrial::query()->with(['project', 'version.asked.endpoint'])->findOrFail($this->row))) {
            dispatch(new self($this->row));
        }
    }
}
