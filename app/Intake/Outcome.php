<?php

declare(strict_types=1);

namespace App\Intake;

/** What became of one file. */
final readonly class Outcome
{
    /** @param  'taken'|'known'|'refused'|'passed'  $state */
    private function __construct(public string $state, public string $path, public string $reason = '', public ?int $item = null)
    {
    }

    public static function taken(string $path, int $item, string $reason = ''): self
    {
        return new self('taken', $path, $reason, $item);
    }

    /** The same bytes are already in the project. */
    public static function known(string $path, int $item, string $reason): self
    {
        return new self('known', $path, $reason, $item);
    }

    public static function refused(string $path, string $reason): self
    {
        return new self('refused', $path, $reason);
    }

    /** Not a picture and not meant as one, such as a label file beside the pictures. */
    public static function passed(string $path, string $reason): self
    {
        return new self('passed', $path, $reason);
    }
}
