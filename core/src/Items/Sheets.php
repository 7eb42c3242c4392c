<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\InvalidValue;

/** The pages of a document by their sizes, in px. Kept as runs of pages of one size, since most documents have few sizes. */
final readonly class Sheets
{
    /**
     * @param  list<array{int, int, int}>  $runs  width, height, and how many pages in a row have them
     * @param  int  $count  pages
     */
    private function __construct(private array $runs, public int $count)
    {
    }

    /**
     * @param  list<array{int, int}>  $sizes  width and height of each page
     *
     * @throws InvalidValue when there is none, or one without a size
     */
    public static function of(array $sizes): self
    {
        $runs = [];
        $run = null;
        foreach ($sizes as $place => [$width, $height]) {
            if ($width < 1 || $height < 1) {
                throw InvalidValue::at("sheets[{$place}]", "{$width} × {$height}", 'a width and a height in px, each at least 1');
            }
            if ($run !== null && $run[0] === $width && $run[1] === $height) {
                $run[2]++;
            } else {
                $runs = $run === null ? [] : [...$runs, $run];
                $run = [$width, $height, 1];
            }
        }

        return $run === null ? throw InvalidValue::at('sheets', 0, 'at least one page') : new self([...$runs, $run], count($sizes));
    }

    /**
     * Reads `[[width, height, pages], …]`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'sheets'): self
    {
        $runs = [];
        $count = 0;
        foreach (is_array($data) ? $data : [] as $i => $run) {
            if (! is_array($run) || ! array_is_list($run) || count($run) !== 3 || ! is_int($run[0]) || ! is_int($run[1]) || ! is_int($run[2]) || min($run) < 1 || max($run) > 1_000_000) {
                throw InvalidValue::at("{$path}[{$i}]", $run, 'width, height and a number of pages');
            }
            $runs[] = [$run[0], $run[1], $run[2]];
            $count += $run[2];
        }

        return $count >= 1 && $count <= 1_000_000 ? new self($runs, $count) : throw InvalidValue::at($path, $data, 'the sizes of at least one page');
    }

    /**
     * @return array{int, int} width and height of a page
     *
     * @throws InvalidValue when there is no such page
     */
    public function size(int $place): array
    {
        $left = $place;
        foreach ($place < 0 ? [] : $this->runs as [$width, $height, $pages]) {
            if ($left < $pages) {
                return [$width, $height];
            }
            $left -= $pages;
        }

        throw InvalidValue::at('place', $place, 'a page from 0 to '.($this->count - 1));
    }

    /** @return list<array{int, int, int}> */
    public function toArray(): array
    {
        return $this->runs;
    }
}
