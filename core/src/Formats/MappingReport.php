<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** What a format could not hold, or held otherwise, with counts. Filled while writing. */
final class MappingReport
{
    /** @var array<string, int> */
    private array $counts = [];

    public function count(string $what, int $by = 1): void
    {
        $this->counts[$what] = ($this->counts[$what] ?? 0) + $by;
    }

    /** @return list<array{what: string, count: int}> most frequent first */
    public function toArray(): array
    {
        arsort($this->counts);
        $rows = [];
        foreach ($this->counts as $what => $count) {
            $rows[] = ['what' => $what, 'count' => $count];
        }

        return $rows;
    }
}
