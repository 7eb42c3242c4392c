<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** A scan as KITTI has them: x, y, z and reflectance, each a float of 32 bits, little end first, and nothing else. */
final readonly class KittiBin implements Source
{
    private const RECORD = 16;

    private function __construct(private string $file, private int $count)
    {
    }

    /** @throws RefusedCloud */
    public static function open(string $file, CloudLimits $limits): self
    {
        $bytes = (int) @filesize($file);
        $limits->mustWeigh($bytes);
        if ($bytes % self::RECORD !== 0) {
            throw RefusedCloud::because('its '.number_format($bytes).' bytes are not whole points of four numbers');
        }
        $limits->mustHold(intdiv($bytes, self::RECORD));

        return new self($file, intdiv($bytes, self::RECORD));
    }

    public function count(): int
    {
        return $this->count;
    }

    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw RefusedCloud::because("the file can't be read");
        try {
            foreach ((new Records(['x' => [0, Number::Float32], 'y' => [4, Number::Float32], 'z' => [8, Number::Float32], 'intensity' => [12, Number::Float32]], self::RECORD))->columns($in, $this->count) as $columns) {
                yield Points::ofColumns($columns);
            }
        } finally {
            fclose($in);
        }
    }
}
