<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;

/**
 * A text as it is stored: UTF-8, nothing trimmed, nothing normalised. Places in it are counted in Unicode code points from 0; between them and
 * bytes there is a table of every STEP bytes, so that a place in a long text costs what one in a short text does.
 */
final class Text
{
    /** Bytes from one entry of the table to the next. */
    private const STEP = 2048;

    /** Code points. */
    public readonly int $length;

    private readonly bool $plain;

    /** @var list<array{int, int}>|null byte and code point at the beginning of each part */
    private ?array $table = null;

    /** @param  ?Tokens  $tokens  the text came with; null: those of its language are meant */
    private function __construct(public readonly string $body, public readonly ?Tokens $tokens)
    {
        $this->length = mb_strlen($body, 'UTF-8');
        $this->plain = $this->length === strlen($body);
    }

    /** @throws InvalidValue when it is no UTF-8, or the tokens do not lie in it */
    public static function of(string $body, ?Tokens $tokens = null, string $path = 'text'): self
    {
        if (! mb_check_encoding($body, 'UTF-8')) {
            throw InvalidValue::at($path, $body, 'text in UTF-8');
        }
        $text = new self($body, $tokens);
        if ($tokens !== null && $tokens->end() > $text->length) {
            throw InvalidValue::at("{$path}.tokens", $tokens->end(), "tokens within {$text->length} code points");
        }

        return $text;
    }

    /** The words of a span; what of it lies past the end is not there. */
    public function words(Span $span): string
    {
        $from = $this->byte($span->start);

        return substr($this->body, $from, $this->byte($span->end) - $from);
    }

    /** The words from one place to another. */
    public function between(int $start, int $end): string
    {
        return $end <= $start ? '' : $this->words(Span::of(max(0, $start), $end));
    }

    /** The byte at which a code point begins; past the end the number of bytes. */
    public function byte(int $offset): int
    {
        if ($offset <= 0 || $offset >= $this->length) {
            return $offset <= 0 ? 0 : strlen($this->body);
        }
        if ($this->plain) {
            return $offset;
        }
        [$byte, $at] = $this->entry(1, $offset);

        return $byte + strlen(mb_substr(substr($this->body, $byte, self::STEP + 8), 0, $offset - $at, 'UTF-8'));
    }

    /** The code point that begins at a byte, or that the byte is a part of. */
    public function offset(int $byte): int
    {
        if ($byte <= 0 || $byte >= strlen($this->body)) {
            return $byte <= 0 ? 0 : $this->length;
        }
        if ($this->plain) {
            return $byte;
        }
        [$from, $at] = $this->entry(0, $byte);

        return $at + mb_strlen(substr($this->body, $from, $byte - $from), 'UTF-8');
    }

    /**
     * The last entry of the table that does not lie behind a place.
     *
     * @param  0|1  $column  the place is a byte, or a code point
     * @return array{int, int}
     */
    private function entry(int $column, int $place): array
    {
        $table = $this->table ??= $this->counted();
        [$low, $high] = [0, count($table) - 1];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            if ($table[$middle][$column] <= $place) {
                $low = $middle;
            } else {
                $high = $middle - 1;
            }
        }

        return $table[$low];
    }

    /** @return list<array{int, int}> */
    private function counted(): array
    {
        $table = [];
        $at = $byte = 0;
        $end = strlen($this->body);
        while ($byte < $end) {
            $table[] = [$byte, $at];
            $next = $byte + self::STEP;
            // a part begins where a code point does
            while ($next < $end && (ord($this->body[$next]) & 0xC0) === 0x80) {
                $next++;
            }
            $at += mb_strlen(substr($this->body, $byte, $next - $byte), 'UTF-8');
            $byte = $next;
        }

        return $table;
    }
}
