<?php

declare(strict_types=1);

namespace App\Http;

use RuntimeException;

/** A request that is understood and not carried out. */
final class Refusal extends RuntimeException
{
    /** @param  array<string, mixed>  $more */
    private function __construct(public readonly int $status, public readonly string $reason, string $message, public readonly array $more)
    {
        parent::__construct($message);
    }

    /** @param  array<string, mixed>  $more members of the problem document beside the usual ones */
    public static function because(string $reason, string $message, int $status = 409, array $more = []): self
    {
        return new self($status, $reason, $message, $more);
    }
}
