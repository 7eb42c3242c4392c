<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use DateTimeImmutable;

/** An item held by one person for a while. Renewed by activity; when it runs out the item goes back with all its edits. */
final readonly class Lease
{
    /** Ten minutes offline must lose nothing, so a lease outlives them. */
    public const SECONDS = 1200;

    public function __construct(public int $holder, public DateTimeImmutable $until)
    {
    }

    public static function take(int $holder, DateTimeImmutable $now): self
    {
        return new self($holder, $now->modify('+'.self::SECONDS.' seconds'));
    }

    public function isOver(DateTimeImmutable $now): bool
    {
        return $this->until <= $now;
    }

    /** Whether somebody else may take what this lease holds. */
    public function isFreeFor(int $person, DateTimeImmutable $now): bool
    {
        return $this->holder === $person || $this->isOver($now);
    }
}
