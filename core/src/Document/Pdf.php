<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Closure;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Items\Wish;
use Skeno\Core\Programs\Bounded;
use Skeno\Core\Programs\Ended;
use Skeno\Core\Programs\TookTooLong;

/**
 * A PDF whose pages have been counted and measured. Poppler draws them, which runs no scripts and follows no links; the file itself is never
 * shown to anybody. Pages are as they are seen: cropped and turned.
 */
final readonly class Pdf
{
    /** A PDF begins with it, or a little after (ISO 32000-1, annex H.3.4.1: within the first 1024 bytes). */
    private const HEAD = '%PDF-';

    /** Points an inch. */
    private const POINTS = 72.0;

    private function __construct(public string $file, public Sheets $sheets, public int $resolution, public bool $hasScripts)
    {
    }

    /** Whether it can be nothing else. @param  string  $head  of the file */
    public static function isOne(string $head): bool
    {
        return str_starts_with(ltrim($head, " \t\r\n\0\u{FEFF}"), self::HEAD);
    }

    /** Whether it may be one. @param  string  $head  of the file */
    public static function sniff(string $head): bool
    {
        return str_contains(substr($head, 0, 1024), self::HEAD);
    }

    /**
     * @param  int  $resolution  px an inch its pages are drawn at
     *
     * @throws RefusedDocument
     */
    public static function open(string $file, int $resolution, DocumentLimits $limits): self
    {
        if ($resolution < Wish::LEAST_RESOLUTION || $resolution > Wish::MOST_RESOLUTION) {
            throw RefusedDocument::because("pages are drawn at {$resolution} px an inch; ".Wish::LEAST_RESOLUTION.' to '.Wish::MOST_RESOLUTION.' can be');
        }
        $bytes = @filesize($file);
        if ($bytes === false || $bytes > $limits->maxBytes) {
            throw RefusedDocument::because($bytes === false ? "the file can't be read" : sprintf('the file has %s MB; at most %s MB are taken', round($bytes / 1e6, 1), round($limits->maxBytes / 1e6, 1)));
        }
        $about = self::info($file, [], $limits);
        if (preg_match('/^Pages:\s+(\d{1,9})$/m', $about, $pages) !== 1 || (int) $pages[1] < 1) {
            throw RefusedDocument::because('it is broken: it has no pages');
        }
        $count = (int) $pages[1];
        $limits->mustCount($count);
        $sizes = self::sizes(self::info($file, ['-f', '1', '-l', (string) $count], $limits), $resolution);
        $measured = [];
        for ($page = 1; $page <= $count; $page++) {
            [$width, $height] = $sizes[$page] ?? throw RefusedDocument::because("it is broken: page {$page} of {$count} can't be found");
            $limits->mustHold($page, $width, $height);
            $measured[] = [$width, $height];
        }

        return new self($file, Sheets::of($measured), $resolution, preg_match('/^JavaScript:\s+yes$/m', $about) === 1);
    }

    /**
     * Draws a page.
     *
     * @param  int  $place  from 0
     * @param  int  $resolution  px an inch; a side may come out a px longer or shorter than it was measured
     * @param  string  $target  a file name ending in .jpg
     *
     * @throws RefusedDocument
     */
    public static function draw(string $file, int $place, int $resolution, string $target, DocumentLimits $limits): void
    {
        $page = (string) ($place + 1);
        $ended = self::program($limits, $limits->patience, ['pdftoppm', '-q', '-cropbox', '-f', $page, '-l', $page, '-singlefile', '-jpeg', '-jpegopt', 'quality=90', '-r', (string) $resolution, $file, substr($target, 0, -4)]);
        if ($ended->code !== 0 || ! is_file($target)) {
            throw RefusedDocument::because("page {$page} can't be drawn: ".(self::why($ended->complaint) ?? 'it is broken'));
        }
    }

    /**
     * The words of the text layer of one page.
     *
     * @throws RefusedDocument
     */
    public static function wordsOf(string $file, int $place, int $resolution, DocumentLimits $limits): PageWords
    {
        $found = PageWords::of([]);
        self::layer($file, $resolution, $limits, ['-f', (string) ($place + 1), '-l', (string) ($place + 1)], $limits->patience, static function (int $_, PageWords $words) use (&$found): void {
            $found = $words;
        });

        return $found;
    }

    /**
     * The words of the text layer, page by page.
     *
     * @param  Closure(int, PageWords): void  $each  gets the place of a page and its words, for every page in order
     *
     * @throws RefusedDocument
     */
    public static function words(string $file, int $resolution, DocumentLimits $limits, Closure $each): void
    {
        self::layer($file, $resolution, $limits, [], 10 * $limits->patience, $each);
    }

    /**
     * @param  list<string>  $arguments
     * @param  Closure(int, PageWords): void  $each
     */
    private static function layer(string $file, int $resolution, DocumentLimits $limits, array $arguments, int $patience, Closure $each): void
    {
        $scale = $resolution / self::POINTS;
        $place = -1;
        $line = 0;
        $words = [];
        $rest = '';
        $take = static function (string $row) use (&$place, &$line, &$words, $each, $scale): void {
            if (str_contains($row, '<page ')) {
                $place++;
                [$line, $words] = [0, []];
            } elseif (str_contains($row, '</page>')) {
                $each($place, PageWords::of($words));
                $words = [];
            } elseif (str_contains($row, '<line ')) {
                $line++;
            } elseif (count($words) < PageWords::MOST && preg_match('#<word xMin="(-?[\d.]+)" yMin="(-?[\d.]+)" xMax="(-?[\d.]+)" yMax="(-?[\d.]+)">(.*)</word>#s', $row, $m) === 1) {
                $text = PageWords::clean(html_entity_decode($m[5], ENT_QUOTES | ENT_XML1, 'UTF-8'));
                [$x1, $y1, $x2, $y2] = array_map(static fn (string $n): float => max(-Box::LIMIT, min(Box::LIMIT, (float) $n * $scale)), array_slice($m, 1, 4));
                if ($text !== null && $x2 > $x1 && $y2 > $y1) {
                    $words[] = new Word($text, Box::fromCorners($x1, $y1, $x2, $y2), $line);
                }
            }
        };
        $ended = self::program($limits, $patience, ['pdftotext', '-q', '-cropbox', '-bbox-layout', '-enc', 'UTF-8', ...$arguments, $file, '-'], static function (string $out) use (&$rest, $take): void {
            $rows = explode("\n", $rest.$out);
            $rest = (string) array_pop($rows);
            if (strlen($rest) > 1_000_000) {
                $rest = '';
            }
            array_map($take, $rows);
        });
        if ($ended->code !== 0) {
            throw RefusedDocument::because('its words can\'t be read: '.(self::why($ended->complaint) ?? 'it is broken'));
        }
    }

    /**
     * @param  list<string>  $arguments
     *
     * @throws RefusedDocument
     */
    private static function info(string $file, array $arguments, DocumentLimits $limits): string
    {
        $said = '';
        $ended = self::program($limits, $limits->patience, ['pdfinfo', '-enc', 'UTF-8', ...$arguments, $file], static function (string $out) use (&$said): void {
            // a title may be as long as a hostile hand likes
            $said = strlen($said) > 4_000_000 ? $said : $said.$out;
        });
        if ($ended->code !== 0) {
            throw RefusedDocument::because(self::why($ended->complaint) ?? 'it is broken: what is in it is no PDF');
        }

        return $said;
    }

    /**
     * @return array<int, array{int, int}> px of each page that could be found, by its number from 1
     */
    private static function sizes(string $said, int $resolution): array
    {
        $sizes = [];
        preg_match_all('/^Page\s+(\d+)\s+(size:\s+([\d.]+) x ([\d.]+) pts|rot:\s+(\d+))/m', $said, $rows, PREG_SET_ORDER);
        foreach ($rows as $row) {
            $page = (int) $row[1];
            if (isset($row[5])) {
                $sizes[$page] = isset($sizes[$page]) && (int) $row[5] % 180 !== 0 ? [$sizes[$page][1], $sizes[$page][0]] : $sizes[$page] ?? [0, 0];
            } else {
                $px = static fn (string $points): int => (int) min(1e9, ceil(round((float) $points * $resolution / self::POINTS, 3)));
                $sizes[$page] = [$px($row[3] ?? '0'), $px($row[4] ?? '0')];
            }
        }

        return $sizes;
    }

    /**
     * @param  list<string>  $command
     * @param  ?Closure(string): void  $out
     *
     * @throws RefusedDocument
     */
    private static function program(DocumentLimits $limits, int $patience, array $command, ?Closure $out = null): Ended
    {
        try {
            return (new Bounded($limits->memory, $patience))->run($command, $out);
        } catch (TookTooLong) {
            throw RefusedDocument::because("reading it takes longer than {$patience} s");
        }
    }

    /** What poppler's complaint means, in words for people; null for none that is known. */
    private static function why(string $complaint): ?string
    {
        return match (true) {
            str_contains($complaint, 'Incorrect password') => 'it is locked with a password; save it without one first',
            str_contains($complaint, 'Unsupported security handler'), str_contains($complaint, 'Unsupported version/revision') => 'it is locked in a way that can\'t be opened',
            str_contains($complaint, 'Out of memory'), str_contains($complaint, 'bad_alloc'), str_contains($complaint, 'Bogus memory allocation') => 'it takes more memory than a document may have',
            str_contains($complaint, "Couldn't find trailer dictionary"), str_contains($complaint, "Couldn't read xref table") => 'it is cut off or broken: its index is missing',
            str_contains($complaint, 'No space left on device') => 'there is no room left on the disk',
            default => null,
        };
    }
}
