<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Texts;

use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Text\Decoding;
use Skeno\Core\Text\RefusedText;

/** A file of lines as a stream in UTF-8, whatever encoding it is in. */
final class Lines
{
    /** Bytes of a line at most. */
    public const LONGEST = 64 << 20;

    /** Bytes read of a line at once. */
    private const PIECE = 64 << 10;

    /** Bytes the encoding is told by. */
    private const HEAD = 1 << 20;

    /**
     * @return array{resource, string} the stream, behind a byte order mark where there is one, and the encoding of the file
     *
     * @throws UnreadableLabels
     */
    public static function open(string $file): array
    {
        $stream = @fopen($file, 'rb');
        if ($stream === false) {
            throw UnreadableLabels::because('"'.basename($file).'" can\'t be read');
        }
        try {
            [$encoding, $mark] = Decoding::encodingOf((string) fread($stream, self::HEAD));
        } catch (RefusedText $e) {
            fclose($stream);
            throw UnreadableLabels::because('"'.basename($file).'": '.$e->getMessage());
        }
        rewind($stream);
        fseek($stream, $mark);
        if ($encoding !== 'UTF-8') {
            stream_filter_append($stream, "convert.iconv.{$encoding}.UTF-8", STREAM_FILTER_READ);
        }

        return [$stream, $encoding];
    }

    /**
     * Its lines without their ends, by number from 1.
     *
     * @return iterable<int, string>
     *
     * @throws UnreadableLabels when a line is too long or not in the encoding the file begins in
     */
    public static function of(string $file): iterable
    {
        [$stream, $encoding] = self::open($file);
        try {
            for ($number = 1; ($line = fgets($stream, self::PIECE)) !== false; $number++) {
                // (asked for the longest line at once, each of a million would take room for it)
                while (! str_ends_with($line, "\n") && ($more = fgets($stream, self::PIECE)) !== false) {
                    $line .= $more;
                    if (strlen($line) >= self::LONGEST) {
                        throw UnreadableLabels::because('"'.basename($file)."\", line {$number}: it is longer than ".(self::LONGEST >> 20).' MB');
                    }
                }
                if (! mb_check_encoding($line, 'UTF-8')) {
                    throw UnreadableLabels::because('"'.basename($file)."\", line {$number}: it is not in {$encoding}, as the file begins");
                }
                yield $number => rtrim($line, "\r\n");
            }
        } finally {
            fclose($stream);
        }
    }
}
