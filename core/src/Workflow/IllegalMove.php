<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use DomainException;

/** A step that the state of the work does not allow; the message is for people, the code for programs. */
final class IllegalMove extends DomainException
{
    private function __construct(public readonly string $reason, string $message)
    {
        parent::__construct($message);
    }

    public static function because(string $reason, string $message): self
    {
        return new self($reason, $message);
    }
}
