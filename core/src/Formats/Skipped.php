<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** An object, file or picture entry that did not come in. */
final readonly class Skipped
{
    /** @param  string  $place such as `annotations[4] (id 17)` or `line 3` */
    public function __construct(public string $file, public string $place, public string $reason)
    {
    }

    /** @return array{file: string, place: string, reason: string} */
    public function toArray(): array
    {
        return ['file' => $this->file, 'place' => $this->place, 'reason' => $this->reason];
    }
}
