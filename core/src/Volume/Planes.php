<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use RuntimeException;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What was made of a scan, read plane by plane. */
final class Planes
{
    public const DIRECTIONS = ['xy', 'xz', 'yz'];

    /** @var array<string, resource> */
    private array $files = [];

    /** @var array<string, list<int>> where each plane begins, and the end of the last */
    private array $begins = [];

    /**
     * @param  array{int, int, int}  $sizes  along x, y, z
     * @param  array{float, float, float}  $spacing  mm
     * @param  ?array{string, string, string}  $letters  where x, y, z go to in a body; null: nobody knows
     * @param  list<Window>  $windows
     * @param  array<string, array{int, int, list<int>}>  $planes  width, height and lengths, by direction
     */
    private function __construct(private readonly string $folder, public readonly array $sizes, public readonly array $spacing, public readonly ?array $letters, public readonly Stored $stored, public readonly array $windows, private readonly array $planes)
    {
    }

    public static function open(string $folder): self
    {
        try {
            $index = Fields::of(json_decode((string) @file_get_contents("{$folder}/index.json"), true), 'index');
            [$sizes, $spacing] = [$index->list('sizes'), $index->list('spacing')];
            $windows = $planes = [];
            foreach ($index->list('windows') as $window) {
                $windows[] = Window::fromArray($window);
            }
            foreach (self::DIRECTIONS as $direction) {
                $plane = $index->object('planes')->object($direction);
                $lengths = array_values(array_filter($plane->list('lengths'), is_int(...)));
                $planes[$direction] = [$plane->int('width', 1), $plane->int('height', 1), $lengths];
            }
            $said = $index->has('letters') ? array_values(array_filter($index->list('letters'), is_string(...))) : [];
            $letters = count($said) === 3 ? [$said[0], $said[1], $said[2]] : null;
            $whole = static fn (mixed $value): int => is_int($value) ? $value : throw InvalidValue::at('index.sizes', $value, 'a whole number');
            $number = static fn (mixed $value): float => is_int($value) || is_float($value) ? (float) $value : throw InvalidValue::at('index.spacing', $value, 'a number');

            return new self($folder, [$whole($sizes[0] ?? null), $whole($sizes[1] ?? null), $whole($sizes[2] ?? null)], [$number($spacing[0] ?? null), $number($spacing[1] ?? null), $number($spacing[2] ?? null)], $letters, Stored::fromArray($index->raw('stored')), $windows, $planes);
        } catch (InvalidValue $e) {
            throw new RuntimeException("what was made of this volume is broken: {$e->getMessage()}", 0, $e);
        }
    }

    /** As one looks at it first. */
    public function window(): Window
    {
        return $this->windows[0] ?? Window::between('all', $this->stored->measured(0), $this->stored->measured(Stored::MOST));
    }

    /**
     * @param  string  $direction  xy, xz or yz
     * @return string 16-bit numbers, little end first, row by row
     */
    public function plane(string $direction, int $n): string
    {
        [$width, $height, $lengths] = $this->planes[$direction];
        $length = $lengths[$n] ?? throw InvalidValue::at('plane', $n, 'a plane from 0 to '.(count($lengths) - 1));
        if (! isset($this->begins[$direction])) {
            $this->begins[$direction] = [0];
            foreach ($lengths as $i => $one) {
                $this->begins[$direction][] = $this->begins[$direction][$i] + $one;
            }
        }
        $this->files[$direction] ??= @fopen("{$this->folder}/{$direction}.bin", 'rb') ?: throw new RuntimeException('what was made of this volume is gone');
        fseek($this->files[$direction], $this->begins[$direction][$n]);
        $plane = @gzinflate((string) fread($this->files[$direction], max(1, $length)));

        return $plane !== false && strlen($plane) === 2 * $width * $height ? $plane : throw new RuntimeException("what was made of this volume is broken: plane {$n} of {$direction}");
    }

    /**
     * A slice in shades of grey, as a Windows bitmap of 8 bits, which every program that reads pictures reads.
     *
     * @param  ?Window  $window  null: as one looks at it first
     */
    public function bitmap(int $slice, ?Window $window = null): string
    {
        $window ??= $this->window();
        $width = $this->sizes[0];
        $greys = [];
        $pixels = '';
        /** @var array<int, int> $values */
        $values = unpack('v*', $this->plane('xy', $slice));
        foreach ($values as $value) {
            $pixels .= $greys[$value] ??= chr($window->grey($this->stored->measured($value)));
        }

        return self::grey(str_split($pixels, max(1, $width)), $width);
    }

    /**
     * Rows of grey pixels as a Windows bitmap.
     *
     * @param  list<string>  $rows  from above
     */
    public static function grey(array $rows, int $width): string
    {
        $height = count($rows);
        $pad = str_repeat("\0", (4 - $width % 4) % 4);
        // from the bottom row up
        $body = implode('', array_map(static fn (string $row): string => $row.$pad, array_reverse($rows)));
        $palette = '';
        for ($grey = 0; $grey < 256; $grey++) {
            $palette .= chr($grey).chr($grey).chr($grey)."\0";
        }

        return 'BM'.pack('VvvV', 1078 + strlen($body), 0, 0, 1078).pack('VVVvvVVVVVV', 40, $width, $height, 1, 8, 0, strlen($body), 2835, 2835, 256, 0).$palette.$body;
    }
}
