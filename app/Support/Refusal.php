<?php

declare(strict_types=1);

namespace App\Support;

use DomainException;

/** Something that was understood and is not done: a stable code for programs, a sentence for people. App\Http gives it a status. */
final class Refusal extends DomainException
{
    /** @param  array<string, mixed>  $more what belongs to it beside the sentence */
    private function __construct(public readonly string $reason, string $message, public readonly array $more)
    {
        parent::__construct($message);
    }

    /** @param  array<string, mixed>  $more */
    public static function because(string $reason, string $message, array $more = []): self
    {
        return new self($reason, $message, $more);
    }
}
