<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

/**
 * What the marks of a layer are: the agreed ones, those of one of several people who label blind, changes on top of accepted labels
 * until they are accepted themselves, or what a model proposes.
 */
enum LayerKind: string
{
    case Agreed = 'agreed';
    case Blind = 'blind';
    case Draft = 'draft';
    case Suggestion = 'suggestion';

    /** The name of a layer, which is its own within an item. @param  ?int  $of  the assignment, or the run of suggestions */
    public function name(?int $of = null, ?int $pass = null): string
    {
        return match ($this) {
            self::Agreed => $this->value,
            self::Suggestion => "{$this->value}/{$of}",
            self::Blind, self::Draft => "{$this->value}/{$of}/{$pass}",
        };
    }
}
