<?php

declare(strict_types=1);

namespace Skeno\Core\Json;

use Generator;
use RuntimeException;

/**
 * Reads a JSON object of any size in constant memory: the elements of its top-level arrays one by one, its other top-level
 * members whole. One pattern finds the end of an element that lies in the buffer whole; longer ones are gone through from quote to
 * bracket.
 */
final class ElementStream
{
    private const CHUNK = 1 << 18;

    /** No single element (an annotation, an item with all its marks) may be longer, in bytes. */
    private const MAX_ELEMENT = 32 << 20;

    /** Nor hold more lists and objects: each takes a hundred times the memory of the two bytes it may be written in. */
    private const MAX_CONTAINERS = 500_000;

    /** What is left in the buffer is topped up when it is shorter than this, so that nearly every element lies in it whole. */
    private const AHEAD = 1 << 16;

    /** A list or an object with all in it. Possessive throughout: no text makes it try anything twice. */
    private const BALANCED = '/\G(?<value>\{(?:[^{}\[\]"]++|"(?:[^"\\\\]++|\\\\.)*+"|(?&value))*+\}|\[(?:[^{}\[\]"]++|"(?:[^"\\\\]++|\\\\.)*+"|(?&value))*+\])/s';

    private string $buffer = '';

    private int $at = 0;

    private bool $end = false;

    /**
     * The same from a file.
     *
     * @param  list<string>  $arrays
     * @return Generator<int, array{0: string, 1: int|null, 2: mixed}>
     *
     * @throws MalformedJson also when it can't be opened
     */
    public static function ofFile(string $file, array $arrays): Generator
    {
        $stream = @fopen($file, 'rb');
        if ($stream === false) {
            throw MalformedJson::at('"'.basename($file).'"', 'can\'t be read');
        }
        try {
            yield from self::read($stream, $arrays);
        } finally {
            fclose($stream);
        }
    }

    /** @param  resource  $stream readable, from the start of the document */
    private function __construct(private $stream)
    {
    }

    /**
     * @param  resource  $stream
     * @param  list<string>  $arrays  names of the top-level arrays wanted element by element
     * @param  list<string>  $members  names of other top-level members wanted whole
     * @return Generator<int, array{0: string, 1: int|null, 2: mixed}> member name, place in its array (null for a whole member or an empty array), value (objects as arrays)
     *
     * @throws MalformedJson
     */
    public static function read($stream, array $arrays, array $members = []): Generator
    {
        yield from (new self($stream))->document($arrays, $members);
    }

    /**
     * @param  list<string>  $arrays
     * @param  list<string>  $members
     * @return Generator<int, array{0: string, 1: int|null, 2: mixed}>
     */
    private function document(array $arrays, array $members): Generator
    {
        $this->skipSpace();
        if (substr($this->buffer, $this->at, 3) === "\xEF\xBB\xBF") {
            $this->at += 3;
            $this->skipSpace();
        }
        $this->expect('{');
        if ($this->peek() === '}') {
            return;
        }
        while (true) {
            $name = $this->decode($this->value(true), 'a member name');
            if (! is_string($name)) {
                throw MalformedJson::at('a member name', 'is not text');
            }
            $this->expect(':');
            if (in_array($name, $arrays, true) && $this->peek() === '[') {
                $this->at++;
                $index = 0;
                while ($this->peek() !== ']') {
                    yield [$name, $index, $this->decode($this->value(true), "{$name}[{$index}]")];
                    $index++;
                    if ($this->peek() === ',') {
                        $this->at++;
                    } elseif ($this->peek() !== ']') {
                        throw MalformedJson::at("{$name}[{$index}]", 'there is no comma or bracket after it');
                    }
                }
                $this->at++;
                if ($index === 0) {
                    yield [$name, null, []];
                }
            } elseif (in_array($name, $members, true) || in_array($name, $arrays, true)) {
                yield [$name, null, $this->decode($this->value(true), $name)];
            } else {
                $this->value(false);
            }
            if ($this->peek() === ',') {
                $this->at++;

                continue;
            }
            $this->expect('}');

            return;
        }
    }

    private function decode(string $json, string $where): mixed
    {
        $value = json_decode($json, true, 64);
        if ($value === null && json_last_error() !== JSON_ERROR_NONE) {
            throw MalformedJson::at($where, json_last_error_msg());
        }

        return $value;
    }

    /** The text of the value that begins here, or '' when it is only to be passed over (then of any length). */
    private function value(bool $keep): string
    {
        $this->skipSpace();
        if ($keep) {
            if (strlen($this->buffer) - $this->at < self::AHEAD) {
                $this->topUp();
            }
            // a buffer holds fewer lists and objects than an element may
            if (preg_match(self::BALANCED, $this->buffer, $found, 0, $this->at) === 1) {
                $this->at += strlen($found[0]);

                return $found[0];
            }
        }
        $depth = $containers = 0;
        $text = '';
        $start = $this->at;
        while (true) {
            if ($this->at >= strlen($this->buffer)) {
                if ($keep) {
                    $text .= substr($this->buffer, $start);
                    if (strlen($text) > self::MAX_ELEMENT) {
                        throw MalformedJson::at('an element', 'is longer than '.(self::MAX_ELEMENT >> 20).' MB');
                    }
                }
                if (! $this->refill()) {
                    throw MalformedJson::at('the end', 'comes too early; the file is cut off');
                }
                $start = 0;
            }
            $char = $this->buffer[$this->at];
            if ($char === '"') {
                [$text, $start] = $this->passString($keep, $text, $start);
                if ($depth === 0) {
                    break;
                }
            } elseif ($char === '{' || $char === '[') {
                $depth++;
                $this->at++;
                if ($keep && ++$containers > self::MAX_CONTAINERS) {
                    throw MalformedJson::at('an element', 'holds more than '.self::MAX_CONTAINERS.' lists and objects');
                }
            } elseif ($char === '}' || $char === ']') {
                if ($depth === 0) {
                    break;
                }
                $this->at++;
                if (--$depth === 0) {
                    break;
                }
            } elseif ($depth === 0 && ($char === ',' || ctype_space($char))) {
                break;
            } else {
                // a scalar at depth 0 ends at a comma or space, too
                $this->at += max(1, strcspn($this->buffer, $depth === 0 ? "\"{}[], \t\r\n" : '"{}[]', $this->at));
            }
        }

        return $keep ? $text.substr($this->buffer, $start, $this->at - $start) : '';
    }

    /** @return array{0: string, 1: int} text kept so far and where the rest of it starts in the buffer */
    private function passString(bool $keep, string $text, int $start): array
    {
        $this->at++;
        while (true) {
            $this->at += strcspn($this->buffer, '"\\', $this->at);
            if ($this->at >= strlen($this->buffer) || ($this->buffer[$this->at] === '\\' && $this->at + 1 >= strlen($this->buffer))) {
                // a backslash at the very end of the buffer is read again with what it escapes
                $rest = substr($this->buffer, $this->at);
                if ($keep) {
                    $text .= substr($this->buffer, $start, $this->at - $start);
                    if (strlen($text) > self::MAX_ELEMENT) {
                        throw MalformedJson::at('an element', 'is longer than '.(self::MAX_ELEMENT >> 20).' MB');
                    }
                }
                if (! $this->refill()) {
                    throw MalformedJson::at('the end', 'comes in the middle of a text; the file is cut off');
                }
                $this->buffer = $rest.$this->buffer;
                $start = 0;

                continue;
            }
            if ($this->buffer[$this->at] === '"') {
                $this->at++;

                return [$text, $start];
            }
            $this->at += 2;
        }
    }

    private function peek(): string
    {
        $this->skipSpace();

        return $this->buffer[$this->at];
    }

    private function expect(string $char): void
    {
        if ($this->peek() !== $char) {
            throw MalformedJson::at('the document', "has \"{$this->buffer[$this->at]}\" where \"{$char}\" should be");
        }
        $this->at++;
    }

    private function skipSpace(): void
    {
        do {
            $this->at += strspn($this->buffer, " \t\r\n", $this->at);
            if ($this->at < strlen($this->buffer)) {
                return;
            }
        } while ($this->refill());
        throw MalformedJson::at('the end', 'comes too early; the file is cut off');
    }

    private function refill(): bool
    {
        if ($this->end) {
            return false;
        }
        $this->buffer = $this->chunk();
        $this->at = 0;

        return $this->buffer !== '';
    }

    /** Reads on without losing what is left. */
    private function topUp(): void
    {
        if (! $this->end) {
            $this->buffer = substr($this->buffer, $this->at).$this->chunk();
            $this->at = 0;
        }
    }

    /** As much as a chunk has, of a stream that may give less at a time; empty only at the end. */
    private function chunk(): string
    {
        $chunk = '';
        while (strlen($chunk) < self::CHUNK && ! $this->end) {
            $more = fread($this->stream, self::CHUNK - strlen($chunk));
            if ($more === false) {
                throw new RuntimeException('the file could not be read further');
            }
            $chunk .= $more;
            $this->end = $more === '' && feof($this->stream);
        }

        return $chunk;
    }
}
