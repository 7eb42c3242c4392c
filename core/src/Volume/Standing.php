<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\InvalidValue;

/**
 * How a plane that stands on the slices lies on the bench: pixels are square and as large as the shorter side of a voxel, so that it has its true
 * proportions, and what goes up in a body goes up.
 */
final readonly class Standing
{
    private const MOST = 20_000_000;

    /** Of each direction the axis that goes across, and the one it is looked along. */
    private const AXES = ['xz' => [0, 1], 'yz' => [1, 0]];

    /**
     * @param  'xz'|'yz'  $direction
     * @param  int  $at  which of its planes
     * @param  int  $width  px
     * @param  float  $across  px a voxel is wide, and $down high
     * @param  bool  $turned  whether the slices count from below
     */
    private function __construct(public string $direction, public int $at, public int $width, public int $height, private float $across, private float $down, private bool $turned)
    {
    }

    /**
     * @param  string  $name  a direction and the number of a plane, as `xz-12`
     *
     * @throws InvalidValue
     */
    public static function named(string $name, Planes $planes): self
    {
        if (preg_match('/^(xz|yz)-(\d{1,5})$/D', $name, $m) !== 1) {
            throw InvalidValue::at('plane', $name, 'xz or yz and the number of a plane, as xz-12');
        }
        $direction = $m[1] === 'xz' ? 'xz' : 'yz';
        [$across, $through] = self::AXES[$direction];
        if ((int) $m[2] >= $planes->sizes[$through]) {
            throw InvalidValue::at('plane', $name, 'a plane from 0 to '.($planes->sizes[$through] - 1));
        }
        $unit = min($planes->spacing[$across], $planes->spacing[2]);
        [$wide, $high] = [$planes->spacing[$across] / $unit, $planes->spacing[2] / $unit];

        // a thin stack of large slices would be a picture nobody can hold
        if ($planes->sizes[$across] * $wide * $planes->sizes[2] * $high > self::MOST) {
            throw InvalidValue::at('plane', $name, 'a plane of at most '.number_format(self::MOST).' pixels');
        }

        return new self($direction, (int) $m[2], max(1, (int) round($planes->sizes[$across] * $wide)), max(1, (int) round($planes->sizes[2] * $high)), $wide, $high, $planes->letters !== null && in_array($planes->letters[2], ['S', 'A'], true));
    }

    /** As a Windows bitmap of 8 bits, as one looks at it first. */
    public function bitmap(Planes $planes): string
    {
        [$across] = self::AXES[$this->direction];
        [$wide, $deep] = [$planes->sizes[$across], $planes->sizes[2]];
        $window = $planes->window();
        /** @var array<int, int> $values */
        $values = unpack('v*', $planes->plane($this->direction, $this->at));
        $columns = [];
        for ($x = 0; $x < $this->width; $x++) {
            $columns[] = max(0, min($wide - 1, (int) floor($x / $this->across))) + 1;
        }
        $greys = [];
        $rows = [];
        for ($y = 0; $y < $this->height; $y++) {
            $z = max(0, min($deep - 1, (int) floor($y / $this->down)));
            $from = ($this->turned ? $deep - 1 - $z : $z) * $wide;
            $row = '';
            foreach ($columns as $x) {
                $value = $values[$from + $x];
                $row .= $greys[$value] ??= chr($window->grey($planes->stored->measured($value)));
            }
            $rows[] = $row;
        }

        return Planes::grey($rows, $this->width);
    }
}
