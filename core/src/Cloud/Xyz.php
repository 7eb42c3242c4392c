<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Points in words: XYZ and CSV, with a line that names the columns or without, parted by spaces, tabs, commas or semicolons. */
final readonly class Xyz implements Source
{
    /** What columns mean that have no names. */
    private const USUAL = ['x', 'y', 'z', 'intensity', 'r', 'g', 'b'];

    /** @param  list<string>  $names */
    private function __construct(private string $file, private array $names, private string $between, private int $skipped, private CloudLimits $limits)
    {
    }

    /** @throws RefusedCloud */
    public static function open(string $file, CloudLimits $limits): self
    {
        $limits->mustWeigh((int) @filesize($file));
        $in = @fopen($file, 'rb');
        if ($in === false) {
            throw RefusedCloud::because("the file can't be read");
        }
        try {
            $skipped = 0;
            do {
                $line = fgets($in, Words::MOST_LINE);
                if ($line === false) {
                    throw RefusedCloud::because('it has no points');
                }
                $skipped++;
                $line = trim(str_replace("\u{FEFF}", '', $line));
                // a line that names the columns may stand as a remark
                $named = ltrim($line, "#/ \t");
            } while ($line === '' || ($line !== $named && preg_match('/^x\b/i', $named) !== 1));
        } finally {
            fclose($in);
        }
        $between = str_contains($named, ';') ? '\s*;\s*' : (str_contains($named, ',') ? '\s*,\s*' : '\s+');
        $words = array_map(static fn (string $word): string => strtolower(trim($word, " \"'")), preg_split("/{$between}/", $named) ?: []);
        if (in_array('x', $words, true)) {
            if (count(array_unique($words)) !== count($words)) {
                throw RefusedCloud::because('two of its columns have one name');
            }

            return new self($file, $words, $between, $skipped, $limits);
        }
        $known = count(array_filter($words, static fn (string $word): bool => Words::number($word) !== null));
        if ($known < 3) {
            throw RefusedCloud::because('its first line holds neither three numbers nor the names x, y, z');
        }
        // four columns are x, y, z and intensity; six are x, y, z and a colour
        $names = count($words) === 6 ? ['x', 'y', 'z', 'r', 'g', 'b'] : array_slice(self::USUAL, 0, min(count($words), count(self::USUAL)));

        return new self($file, $names, $between, $skipped - 1, $limits);
    }

    public function count(): ?int
    {
        return null;
    }

    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw RefusedCloud::because("the file can't be read");
        try {
            for ($n = 0; $n < $this->skipped; $n++) {
                fgets($in, Words::MOST_LINE);
            }
            yield from Words::points($in, $this->names, null, $this->between, $this->skipped + 1, $this->limits);
        } finally {
            fclose($in);
        }
    }
}
