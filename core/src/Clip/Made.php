<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

/** What was made of a clip. */
final readonly class Made
{
    /**
     * @param  bool  $sound  it has sound that can be heard
     * @param  string  $note  what is said of it to whoever brought it; empty: nothing
     */
    public function __construct(public FrameTable $frames, public bool $sound, public string $note)
    {
    }
}
