<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/**
 * A PCD file, version 0.7 and those before it: a header of lines, then points in words, as records, or packed by LZF field by field.
 *
 * Source: the PCD file format of the point cloud community (version 0.7).
 */
final readonly class Pcd implements Source
{
    /** Bytes of a header, and of a point. */
    private const MOST_HEADER = 65_536;

    private const MOST_RECORD = 4_096;

    /**
     * @param  list<array{string, Number, int}>  $fields  name, what, and how many of it
     * @param  int  $begins  byte the points begin at
     */
    private function __construct(private string $file, private array $fields, private int $count, private string $data, private int $begins)
    {
    }

    public static function isOne(string $head): bool
    {
        return preg_match('/^(#[^\n]*\n)*\s*VERSION\s+\.?\d/', $head) === 1 || preg_match('/^# \.PCD/', $head) === 1;
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
            $said = [];
            while (! isset($said['DATA'])) {
                $line = fgets($in, 4096);
                if ($line === false || ftell($in) > self::MOST_HEADER) {
                    throw RefusedCloud::because('its header is cut off or damaged');
                }
                $words = preg_split('/\s+/', trim($line)) ?: [];
                if ($words !== [''] && ! str_starts_with($words[0] ?? '#', '#')) {
                    $said[strtoupper((string) $words[0])] = array_slice($words, 1);
                }
            }
            $begins = (int) ftell($in);
        } finally {
            fclose($in);
        }
        $names = $said['FIELDS'] ?? $said['COLUMNS'] ?? throw RefusedCloud::because('its header does not say what its points have (FIELDS)');
        $fields = [];
        $length = 0;
        foreach ($names as $i => $name) {
            $number = match (($said['TYPE'][$i] ?? 'F').($said['SIZE'][$i] ?? '4')) {
                'F4' => Number::Float32,
                'F8' => Number::Float64,
                'I1' => Number::Int8,
                'I2' => Number::Int16,
                'I4' => Number::Int32,
                'U1' => Number::UInt8,
                'U2' => Number::UInt16,
                'U4' => Number::UInt32,
                default => throw RefusedCloud::because("its field {$name} is of a kind that is not read (".($said['TYPE'][$i] ?? '').($said['SIZE'][$i] ?? '').')'),
            };
            $many = (int) ($said['COUNT'][$i] ?? 1);
            // colours are packed into the bytes of a number, which may be called a floating one
            $fields[] = [strtolower($name), strtolower($name) === 'rgb' || strtolower($name) === 'rgba' ? Number::UInt32 : $number, $many];
            $length += $many * $number->bytes();
            if ($many < 1 || $length > self::MOST_RECORD) {
                throw RefusedCloud::because("its header says that a point has {$length} bytes; at most ".self::MOST_RECORD.' are read');
            }
        }
        $count = isset($said['POINTS']) ? (int) ($said['POINTS'][0] ?? 0) : (int) ($said['WIDTH'][0] ?? 0) * (int) ($said['HEIGHT'][0] ?? 1);
        if (isset($said['POINTS'], $said['WIDTH'], $said['HEIGHT']) && (int) ($said['WIDTH'][0] ?? 0) * (int) ($said['HEIGHT'][0] ?? 0) !== $count) {
            throw RefusedCloud::because('its header contradicts itself: WIDTH × HEIGHT is not POINTS');
        }
        $limits->mustHold($count);
        $data = strtolower($said['DATA'][0] ?? '');
        if (! in_array($data, ['ascii', 'binary', 'binary_compressed'], true)) {
            throw RefusedCloud::because("its points are written as \"{$data}\"; ascii, binary and binary_compressed are read");
        }

        return new self($file, $fields, $count, $data, $begins);
    }

    public function count(): int
    {
        return $this->count;
    }

    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw RefusedCloud::because("the file can't be read");
        try {
            fseek($in, $this->begins);
            foreach (match ($this->data) {
                'ascii' => $this->words($in),
                'binary' => $this->records($in),
                default => $this->packed($in),
            } as $columns) {
                yield Points::ofColumns($columns);
            }
        } finally {
            fclose($in);
        }
    }

    /**
     * @param  resource  $in
     * @return iterable<array<string, list<int|float>>>
     */
    private function words($in): iterable
    {
        $columns = [];
        for ($n = 0; $n < $this->count; $n++) {
            do {
                $line = fgets($in, 65_536);
                if ($line === false) {
                    throw RefusedCloud::because('it is cut off: it says it has '.number_format($this->count).' points, and ends after '.number_format($n));
                }
                $line = trim($line);
            } while ($line === '');
            $words = preg_split('/\s+/', $line) ?: [];
            $at = 0;
            foreach ($this->fields as [$name, $number, $many]) {
                $word = $words[$at] ?? throw RefusedCloud::because('point '.($n + 1).' lacks values');
                $at += $many;
                $value = Words::number($word) ?? throw RefusedCloud::because('point '.($n + 1).' says "'.mb_strimwidth(mb_scrub($word), 0, 20, '…').'" where a number belongs');
                $columns[$name][] = $number === Number::Float32 || $number === Number::Float64 || is_nan($value) ? $value : (int) $value;
            }
            if (($n + 1) % Points::SOME === 0) {
                yield $columns;
                $columns = [];
            }
        }
        if ($columns !== []) {
            yield $columns;
        }
    }

    /**
     * @param  resource  $in
     * @return iterable<array<string, list<int|float>>>
     */
    private function records($in): iterable
    {
        $at = 0;
        $fields = [];
        foreach ($this->fields as [$name, $number, $many]) {
            $fields[$name] = [$at, $number];
            $at += $many * $number->bytes();
        }

        return (new Records($fields, $at))->columns($in, $this->count);
    }

    /**
     * @param  resource  $in
     * @return iterable<array<string, list<int|float>>>
     */
    private function packed($in): iterable
    {
        $sizes = (string) stream_get_contents($in, 8);
        if (strlen($sizes) !== 8) {
            throw RefusedCloud::because('it is cut off before its points');
        }
        [$packed, $size] = [(int) Number::UInt32->read(substr($sizes, 0, 4))[0], (int) Number::UInt32->read(substr($sizes, 4, 4))[0]];
        $length = array_sum(array_map(static fn (array $field): int => $field[2] * $field[1]->bytes(), $this->fields));
        if ($size !== $length * $this->count) {
            throw RefusedCloud::because('its header contradicts itself: '.number_format($this->count).' points are not '.number_format($size).' bytes');
        }
        $bytes = (string) stream_get_contents($in, $packed);
        if (strlen($bytes) !== $packed) {
            throw RefusedCloud::because('it is cut off in its points');
        }
        $all = Lzf::unpack($bytes, $size);
        unset($bytes);
        // packed it is field by field
        $begins = [];
        $at = 0;
        foreach ($this->fields as [$name, $number, $many]) {
            $begins[$name] = $at;
            $at += $many * $number->bytes() * $this->count;
        }
        for ($n = 0; $n < $this->count; $n += $some) {
            $some = min(Points::SOME, $this->count - $n);
            $columns = [];
            foreach ($this->fields as [$name, $number, $many]) {
                $size = $number->bytes();
                $piece = substr($all, $begins[$name] + $n * $many * $size, $some * $many * $size);
                $columns[$name] = $number->read($many === 1 ? $piece : implode('', array_map(static fn (string $point): string => substr($point, 0, $size), str_split($piece, max(1, $many * $size)))));
            }
            yield $columns;
        }
    }
}
