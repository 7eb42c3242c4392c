<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\InvalidValue;

/**
 * A camera beside a scanner: where a place of the cloud is on its picture. Camera axes are x to the right, y down, z ahead.
 *
 * `{name, width, height, to_camera: 12 numbers, projection: 12 numbers}`, both 3 × 4, row by row: the first takes a place in the cloud's axes to the
 * camera's, in metres; the second takes that to px times the depth.
 */
final readonly class Camera
{
    /** Metres: what is nearer to the camera, or behind it, is on no picture. */
    private const NEAR = 0.1;

    /** px. */
    public const MOST_SIDE = 100_000;

    /** Of a cuboid, by its corners. */
    private const EDGES = [[0, 1], [1, 2], [2, 3], [3, 0], [4, 5], [5, 6], [6, 7], [7, 4], [0, 4], [1, 5], [2, 6], [3, 7]];

    /**
     * @param  int  $width  px of its pictures
     * @param  list<float>  $toCamera
     * @param  list<float>  $projection
     */
    private function __construct(public string $name, public int $width, public int $height, public array $toCamera, public array $projection, private Rigid $to)
    {
    }

    /**
     * @param  list<float>  $toCamera  12 numbers
     * @param  list<float>  $projection  12 numbers
     *
     * @throws InvalidValue
     */
    public static function of(string $name, int $width, int $height, array $toCamera, array $projection, string $path = 'camera'): self
    {
        if (preg_match('/^[\w-]{1,40}$/D', $name) !== 1) {
            throw InvalidValue::at("{$path}.name", $name, 'letters, digits, - and _, at most 40');
        }
        $to = Rigid::of($toCamera, "{$path}.to_camera");
        $projection = Rigid::numbers($projection, "{$path}.projection");
        if ($projection[0] <= 0 || $projection[5] <= 0) {
            throw InvalidValue::at("{$path}.projection", "{$projection[0]}, {$projection[5]}", 'focal lengths of more than 0 px');
        }

        return new self($name, $width, $height, $to->numbers, $projection, $to);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'camera'): self
    {
        $in = Fields::of($data, $path);
        $numbers = static function (string $key, int $count) use ($in): array {
            $all = [];
            foreach ($in->list($key) as $i => $number) {
                $all[] = is_int($number) || is_float($number) ? (float) $number : throw InvalidValue::at($in->path($key)."[{$i}]", $number, 'a number');
            }

            return count($all) === $count ? $all : throw InvalidValue::at($in->path($key), count($all).' numbers', "{$count} numbers");
        };
        if ($in->has('intrinsics')) {
            [$fx, $fy, $cx, $cy] = $numbers('intrinsics', 4);
            $projection = [$fx, 0.0, $cx, 0.0, 0.0, $fy, $cy, 0.0, 0.0, 0.0, 1.0, 0.0];
        } else {
            $projection = $numbers('projection', 12);
        }

        return self::of($in->string('name', 40), $in->int('width', 1, self::MOST_SIDE), $in->int('height', 1, self::MOST_SIDE), $numbers('to_camera', 12), $projection, $path);
    }

    /** @return array{name: string, width: int, height: int, to_camera: list<float>, projection: list<float>} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'width' => $this->width, 'height' => $this->height, 'to_camera' => $this->toCamera, 'projection' => $this->projection];
    }

    /** @return array{float, float, float} a place in the camera's axes */
    public function seen(float $x, float $y, float $z): array
    {
        return $this->to->place($x, $y, $z);
    }

    /** @return array{float, float, float} a place in the camera's axes back in the cloud's */
    public function placed(float $x, float $y, float $z): array
    {
        return $this->to->back($x, $y, $z);
    }

    /** @return ?array{float, float} px; null: it is behind, or too near */
    public function project(float $x, float $y, float $z): ?array
    {
        return $this->onPicture($this->seen($x, $y, $z));
    }

    /**
     * @param  array{float, float, float}  $seen  in the camera's axes
     * @return ?array{float, float}
     */
    private function onPicture(array $seen): ?array
    {
        [$x, $y, $z] = $seen;
        $p = $this->projection;
        $depth = $p[8] * $x + $p[9] * $y + $p[10] * $z + $p[11];
        if ($z < self::NEAR - 1e-9 || $depth <= 0) {
            return null;
        }

        return [($p[0] * $x + $p[1] * $y + $p[2] * $z + $p[3]) / $depth, ($p[4] * $x + $p[5] * $y + $p[6] * $z + $p[7]) / $depth];
    }

    /**
     * The box around a cuboid on the picture, as far as it is on it, and the share of the whole box that is not.
     *
     * @return ?array{Box, float} null: nothing of it is on the picture
     */
    public function around(Cuboid $cuboid): ?array
    {
        $u = $v = [];
        $corners = array_map(fn (array $corner): array => $this->seen(...$corner), $cuboid->corners());
        // what stands half beside the camera is seen as far as it stands before it: each edge is cut off there
        foreach (self::EDGES as [$from, $to]) {
            [$a, $b] = [$corners[$from], $corners[$to]];
            if ($a[2] < self::NEAR && $b[2] < self::NEAR) {
                continue;
            }
            foreach ([[$a, $b], [$b, $a]] as [$end, $other]) {
                if ($end[2] < self::NEAR) {
                    $t = (self::NEAR - $end[2]) / ($other[2] - $end[2]);
                    $end = [$end[0] + $t * ($other[0] - $end[0]), $end[1] + $t * ($other[1] - $end[1]), self::NEAR];
                }
                $at = $this->onPicture($end);
                if ($at !== null) {
                    [$u[], $v[]] = $at;
                }
            }
        }
        if ($u === [] || $v === []) {
            return null;
        }
        $whole = Box::of(min($u), min($v), max($u) - min($u), max($v) - min($v));
        $on = $whole->clippedTo($this->width, $this->height);
        $all = $whole->width * $whole->height;

        return $on === null || $all <= 0 ? null : [$on, max(0.0, 1 - $on->width * $on->height / $all)];
    }
}
