<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

use GdImage;
use RuntimeException;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/**
 * A picture whose pixels are numbers: palette indexes 0 to 255, or, in true colour, R + 256·G + 65536·B. Written and read as PNG by GD;
 * masks are painted run by run.
 */
final readonly class IndexImage
{
    private function __construct(private GdImage $image, public int $width, public int $height, private bool $palette)
    {
    }

    /** What the image beside a picture is called: the picture's own name where it is a PNG too, else that and `.png`. */
    public static function name(string $path): string
    {
        return str_ends_with(strtolower($path), '.png') ? $path : "{$path}.png";
    }

    /** @param  list<array{int, int, int}>  $colors  red, green, blue of the indexes from 0; the rest up to 255 are grey */
    public static function palette(int $width, int $height, array $colors): self
    {
        $image = imagecreate(max(1, $width), max(1, $height));
        if ($image === false) {
            throw new RuntimeException("no picture of {$width} × {$height} can be made");
        }
        // all 256 are set, so that the file has 8 bits a pixel whatever is used
        for ($i = 0; $i < 256; $i++) {
            [$r, $g, $b] = $colors[$i] ?? [$i, $i, $i];
            imagecolorallocate($image, self::byte($r), self::byte($g), self::byte($b));
        }

        return new self($image, $width, $height, true);
    }

    public static function trueColor(int $width, int $height): self
    {
        $image = imagecreatetruecolor(max(1, $width), max(1, $height));
        if ($image === false) {
            throw new RuntimeException("no picture of {$width} × {$height} can be made");
        }

        return new self($image, $width, $height, false);
    }

    /** @throws InvalidValue when it is no PNG of this size */
    public static function read(string $file, int $width, int $height): self
    {
        $size = @getimagesize($file);
        if ($size === false || $size[2] !== IMAGETYPE_PNG) {
            throw InvalidValue::at(basename($file), $size === false ? 'no picture' : $size['mime'], 'a PNG');
        }
        if ($size[0] !== $width || $size[1] !== $height) {
            throw InvalidValue::at(basename($file), "{$size[0]} × {$size[1]}", "{$width} × {$height}, the size of the picture");
        }
        $image = @imagecreatefrompng($file);
        if ($image === false) {
            throw InvalidValue::at(basename($file), 'a damaged file', 'a PNG');
        }

        return new self($image, $width, $height, ! imageistruecolor($image));
    }

    public function paint(Mask $mask, int $value): void
    {
        $color = $this->palette ? $value : (($value & 0xFF) << 16 | ($value & 0xFF00) | ($value >> 16 & 0xFF));
        foreach ($mask->columns() as $x => $runs) {
            $n = count($runs);
            for ($i = 0; $i < $n; $i += 2) {
                imagefilledrectangle($this->image, $x, $runs[$i], $x, $runs[$i + 1] - 1, $color);
            }
        }
    }

    public function write(string $file): void
    {
        if (! is_dir(dirname($file)) && ! @mkdir(dirname($file), 0o770, true) && ! is_dir(dirname($file))) {
            throw new RuntimeException('the folder of "'.basename($file).'" could not be made');
        }
        if (! @imagepng($this->image, $file, 6, PNG_NO_FILTER)) {
            throw new RuntimeException('"'.basename($file).'" could not be written: is the disk full?');
        }
    }

    /**
     * The pixels of every number that occurs. Of a grey picture without palette the number is the grey.
     *
     * @return array<int, Mask> by number, rising
     */
    public function masks(): array
    {
        $edges = [];
        $height = $this->height;
        $grey = ! $this->palette && $this->isGrey();
        for ($x = 0; $x < $this->width; $x++) {
            $last = null;
            for ($y = 0; $y < $height; $y++) {
                $value = imagecolorat($this->image, $x, $y);
                if ($value !== $last) {
                    if ($last !== null) {
                        $edges[$last][] = $x * $height + $y;
                    }
                    $edges[$value][] = $x * $height + $y;
                    $last = $value;
                }
            }
            $edges[$last ?? 0][] = ($x + 1) * $height;
        }
        $masks = [];
        foreach ($edges as $value => $list) {
            $joined = [];
            foreach ($list as $edge) {
                // a run that ends where the next column's begins is one run
                if ($joined !== [] && $joined[count($joined) - 1] === $edge) {
                    array_pop($joined);
                } else {
                    $joined[] = $edge;
                }
            }
            $number = $this->palette ? $value : ($grey ? $value & 0xFF : (($value >> 16 & 0xFF) | ($value & 0xFF00) | ($value & 0xFF) << 16));
            $masks[$number] = Mask::ofEdges($this->width, $height, $joined);
        }
        ksort($masks);

        return $masks;
    }

    private function isGrey(): bool
    {
        for ($x = 0; $x < $this->width; $x++) {
            for ($y = 0; $y < $this->height; $y++) {
                $value = (int) imagecolorat($this->image, $x, $y);
                if (($value >> 16 & 0xFF) !== ($value & 0xFF) || ($value >> 8 & 0xFF) !== ($value & 0xFF)) {
                    return false;
                }
            }
        }

        return true;
    }

    /** @return int<0, 255> */
    private static function byte(int $value): int
    {
        return max(0, min(255, $value));
    }
}
