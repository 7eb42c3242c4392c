<?php

declare(strict_types=1);

namespace App\Items;

/** All items of a project in some order, and which of them conditions leave over. */
final readonly class FoundItems
{
    /**
     * @param  list<list<int|string>>  $rows  id, set's id and state of each item, and more
     * @param  list<bool>  $left  whether it is left over, in the same order
     * @param  list<array{f: string, found: int}>  $steps  what each condition left over, together with those before it
     */
    public function __construct(private array $rows, private array $left, public array $steps)
    {
    }

    /** @return list<int> of those left over, in order */
    public function ids(): array
    {
        $ids = [];
        foreach ($this->rows as $n => $row) {
            if ($this->left[$n]) {
                $ids[] = (int) $row[0];
            }
        }

        return $ids;
    }

    public function all(): int
    {
        return count($this->rows);
    }

    /**
     * Every item in a letter or two, set by set in the order they are found: what a field map is drawn from.
     *
     * @param  array<int, string>  $sets  paths by id
     * @return list<array{path: string, items: list<int>, states: string, left: string}> of each item its id, the first letter of its state
     *                                                                                   (`n`ew, `w`aiting, `r`eturned, `o`pen, `p`arked, `s`ubmitted, `a`ccepted, `x` archived) and 1 or 0: whether it is left over
     */
    public function map(array $sets): array
    {
        $map = [];
        foreach ($this->rows as $n => $row) {
            $set = (int) $row[1];
            $map[$set] ??= ['path' => $sets[$set] ?? '', 'items' => [], 'states' => '', 'left' => ''];
            $map[$set]['items'][] = (int) $row[0];
            $map[$set]['states'] .= $row[2] === 'archived' ? 'x' : ((string) $row[2])[0];
            $map[$set]['left'] .= $this->left[$n] ? '1' : '0';
        }
        usort($map, static fn (array $a, array $b): int => $a['path'] <=> $b['path']);

        return $map;
    }
}
