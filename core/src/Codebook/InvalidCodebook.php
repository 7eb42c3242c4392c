<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use InvalidArgumentException;

/** A codebook that breaks the grammar or its rules, with every place that does. */
final class InvalidCodebook extends InvalidArgumentException
{
    /** @param  non-empty-list<array{path: string, message: string}>  $errors */
    private function __construct(public readonly array $errors)
    {
        $first = $errors[0];
        $more = count($errors) - 1;
        parent::__construct("the codebook can't be used: {$first['path']}: {$first['message']}".($more > 0 ? " (and {$more} more)" : ''));
    }

    /** @param  non-empty-list<array{path: string, message: string}>  $errors */
    public static function because(array $errors): self
    {
        return new self($errors);
    }
}
