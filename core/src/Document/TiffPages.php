<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

/**
 * The pages of a TIFF of several, by its directories (TIFF 6.0, section 2, and BigTIFF): small copies of a page and masks are none. Only what
 * says how large they are is read; nothing is decoded.
 */
final readonly class TiffPages
{
    /** Entries of a directory that are looked at. */
    private const MOST_ENTRIES = 4000;

    private const SUBFILE = 254;

    private const WIDTH = 256;

    private const HEIGHT = 257;

    private const ORIENTATION = 274;

    /**
     * @param  list<array{int, int}>  $sizes  width and height of each page upright, px
     * @param  list<int>  $frames  which of its directories each page is
     */
    private function __construct(public array $sizes, public array $frames)
    {
    }

    /** How many pages it has, up to two: whether it is a document at all. */
    public static function isMany(string $file): bool
    {
        try {
            return count(self::walk($file, 2)->frames) > 1;
        } catch (RefusedDocument) {
            // what is wrong with it is said by whoever opens it as a picture
            return false;
        }
    }

    /** @throws RefusedDocument */
    public static function of(string $file, DocumentLimits $limits): self
    {
        $bytes = (int) @filesize($file);
        if ($bytes > $limits->maxBytes) {
            throw RefusedDocument::because(sprintf('the file has %s MB; at most %s MB are taken', round($bytes / 1e6, 1), round($limits->maxBytes / 1e6, 1)));
        }
        $pages = self::walk($file, $limits->maxPages + 1);
        $limits->mustCount(count($pages->frames));
        foreach ($pages->sizes as $place => [$width, $height]) {
            $limits->mustHold($place + 1, $width, $height);
        }

        return $pages;
    }

    /** @throws RefusedDocument */
    private static function walk(string $file, int $most): self
    {
        $in = @fopen($file, 'rb');
        if ($in === false) {
            throw RefusedDocument::because("the file can't be read");
        }
        try {
            $head = self::bytes($in, 0, 16);
            $little = str_starts_with($head, 'II');
            $number = static fn (string $bytes): int => self::number($bytes, $little);
            $big = $number(substr($head, 2, 2)) === 43;
            $next = $big ? $number(substr($head, 8, 8)) : $number(substr($head, 4, 4));
            $seen = $sizes = $frames = [];
            for ($frame = 0; $next > 0 && count($frames) < $most; $frame++) {
                if (isset($seen[$next]) || $frame > 4 * $most) {
                    throw RefusedDocument::because('it is broken: its pages lead back to one that was there before');
                }
                $seen[$next] = true;
                [$tags, $next] = self::directory($in, $next, $big, $number);
                // a smaller copy of a page, or a mask
                if ((($tags[self::SUBFILE] ?? 0) & 5) !== 0) {
                    continue;
                }
                $turned = ($tags[self::ORIENTATION] ?? 1) >= 5;
                [$width, $height] = [$tags[self::WIDTH] ?? 0, $tags[self::HEIGHT] ?? 0];
                $sizes[] = $turned ? [$height, $width] : [$width, $height];
                $frames[] = $frame;
            }

            return new self($sizes, $frames);
        } finally {
            fclose($in);
        }
    }

    /**
     * @param  resource  $in
     * @param  \Closure(string): int  $number
     * @return array{array<int, int>, int} the tags that matter, and where the next directory lies (0: there is none)
     *
     * @throws RefusedDocument
     */
    private static function directory($in, int $at, bool $big, \Closure $number): array
    {
        [$counter, $entry, $pointer] = $big ? [8, 20, 8] : [2, 12, 4];
        $count = $number(self::bytes($in, $at, $counter));
        if ($count < 1 || $count > self::MOST_ENTRIES) {
            throw RefusedDocument::because('it is broken: a page says nothing of itself');
        }
        $body = self::bytes($in, $at + $counter, $count * $entry + $pointer);
        $tags = [];
        for ($i = 0; $i < $count; $i++) {
            $row = substr($body, $i * $entry, $entry);
            $tag = $number(substr($row, 0, 2));
            if (in_array($tag, [self::SUBFILE, self::WIDTH, self::HEIGHT, self::ORIENTATION], true)) {
                // type 3 is a number of two bytes, 4 of four
                $tags[$tag] = $number(substr($row, $big ? 12 : 8, $number(substr($row, 2, 2)) === 3 ? 2 : 4));
            }
        }

        return [$tags, $number(substr($body, $count * $entry, $pointer))];
    }

    /**
     * @param  resource  $in
     *
     * @throws RefusedDocument
     */
    private static function bytes($in, int $at, int $count): string
    {
        $read = $at >= 0 && fseek($in, $at) === 0 ? (string) fread($in, max(1, $count)) : '';

        return strlen($read) === $count ? $read : throw RefusedDocument::because('it is cut off: a page is missing');
    }

    private static function number(string $bytes, bool $little): int
    {
        $number = 0;
        foreach (str_split($little ? strrev($bytes) : $bytes) as $byte) {
            $number = ($number << 8) | ord($byte);
        }

        return $number;
    }
}
