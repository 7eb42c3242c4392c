<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/**
 * A PLY file: the vertices, in words or as records of either order of bytes; faces and whatever else follows them is left alone.
 *
 * Source: G. Turk, "The PLY polygon file format" (1994).
 */
final readonly class Ply implements Source
{
    private const MOST_HEADER = 65_536;

    /** @param  list<array{string, Number}>  $fields  of a vertex */
    private function __construct(private string $file, private array $fields, private int $count, private string $data, private int $begins, private int $before)
    {
    }

    public static function isOne(string $head): bool
    {
        return preg_match('/^ply\r?\n/', $head) === 1;
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
            $data = '';
            $fields = [];
            $count = null;
            // lines, or bytes, of elements that come before the vertices
            $before = $skipped = 0;
            $element = '';
            $many = 0;
            do {
                $line = fgets($in, 4096);
                if ($line === false || ftell($in) > self::MOST_HEADER) {
                    throw RefusedCloud::because('its header is cut off or damaged');
                }
                $words = preg_split('/\s+/', trim($line)) ?: [''];
                if ($words[0] === 'format') {
                    $data = $words[1] ?? '';
                } elseif ($words[0] === 'element') {
                    [$element, $many] = [$words[1] ?? '', (int) ($words[2] ?? 0)];
                    if ($element === 'vertex') {
                        $count = $many;
                    } elseif ($count === null) {
                        $skipped += $many;
                    }
                } elseif ($words[0] === 'property') {
                    if ($element !== 'vertex' && $count !== null) {
                        continue;
                    }
                    if (($words[1] ?? '') === 'list') {
                        if ($element === 'vertex' || $data !== 'ascii') {
                            throw RefusedCloud::because("its element {$element} has a list where a point is read");
                        }

                        continue;
                    }
                    $number = self::number($words[1] ?? '');
                    if ($element === 'vertex') {
                        $fields[] = [strtolower($words[2] ?? ''), $number];
                    } else {
                        $before += $many * $number->bytes();
                    }
                }
            } while ($words[0] !== 'end_header');
            $begins = (int) ftell($in);
        } finally {
            fclose($in);
        }
        if (! in_array($data, ['ascii', 'binary_little_endian', 'binary_big_endian'], true)) {
            throw RefusedCloud::because("it is written as \"{$data}\"; ascii, binary_little_endian and binary_big_endian are read");
        }
        $limits->mustHold($count ?? 0);

        return new self($file, $fields, $count ?? 0, $data, $begins, $data === 'ascii' ? $skipped : $before);
    }

    public function count(): int
    {
        return $this->count;
    }

    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw RefusedCloud::because("the file can't be read");
        try {
            if ($this->data === 'ascii') {
                fseek($in, $this->begins);
                for ($n = 0; $n < $this->before; $n++) {
                    fgets($in);
                }
                yield from Words::points($in, array_column($this->fields, 0), $this->count);
            } else {
                fseek($in, $this->begins + $this->before);
                $at = 0;
                $fields = [];
                foreach ($this->fields as [$name, $number]) {
                    $fields[$name] = [$at, $number];
                    $at += $number->bytes();
                }
                foreach ((new Records($fields, $at, $this->data === 'binary_little_endian'))->columns($in, $this->count) as $columns) {
                    yield Points::ofColumns($columns);
                }
            }
        } finally {
            fclose($in);
        }
    }

    private static function number(string $word): Number
    {
        return match ($word) {
            'char', 'int8' => Number::Int8,
            'uchar', 'uint8' => Number::UInt8,
            'short', 'int16' => Number::Int16,
            'ushort', 'uint16' => Number::UInt16,
            'int', 'int32' => Number::Int32,
            'uint', 'uint32' => Number::UInt32,
            'float', 'float32' => Number::Float32,
            'double', 'float64' => Number::Float64,
            default => throw RefusedCloud::because("it has a property of the kind \"{$word}\", which nobody knows"),
        };
    }
}
