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

    private const LIMIT = 1e7;

    /**
     * @param  int  $width  px of its pictures
     * @param  list<float>  $toCamera
     * @param  list<float>  $projection
     */
    private function __construct(public string $name, public int $width, public int $height, public array $toCamera, public array $projection)
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
        foreach (['to_camera' => $toCamera, 'projection' => $projection] as $what => $numbers) {
            if (count($numbers) !== 12) {
                throw InvalidValue::at("{$path}.{$what}", count($numbers).' numbers', '12: three rows of four');
            }
            foreach ($numbers as $i => $number) {
                if (! is_finite($number) || abs($number) > self::LIMIT) {
                    throw InvalidValue::at("{$path}.{$what}[{$i}]", $number, 'a number of at most '.(int) self::LIMIT);
                }
            }
        }
        $r = $toCamera;
        $turn = $r[0] * ($r[5] * $r[10] - $r[6] * $r[9]) - $r[1] * ($r[4] * $r[10] - $r[6] * $r[8]) + $r[2] * ($r[4] * $r[9] - $r[5] * $r[8]);
        if (abs($turn - 1.0) > 0.05) {
            throw InvalidValue::at("{$path}.to_camera", sprintf('a determinant of %.3f', $turn), 'a rotation and a shift');
        }
        if ($projection[0] <= 0 || $projection[5] <= 0) {
            throw InvalidValue::at("{$path}.projection", "{$projection[0]}, {$projection[5]}", 'focal lengths of more than 0 px');
        }

        return new self($name, $width, $height, $toCamera, $projection);
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

        return self::of($in->string('name', 40), $in->int('width', 1, 100_000), $in->int('height', 1, 100_000), $numbers('to_camera', 12), $projection, $path);
    }

    /** @return array{name: string, width: int, height: int, to_camera: list<float>, projection: list<float>} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'width' => $this->width, 'height' => $this->height, 'to_camera' => $this->toCamera, 'projection' => $this->projection];
    }

    /** @return array{float, float, float} a place in the camera's axes */
    public function seen(float $x, float $y, float $z): array
    {
        $m = $this->toCamera;

        return [$m[0] * $x + $m[1] * $y + $m[2] * $z + $m[3], $m[4] * $x + $m[5] * $y + $m[6] * $z + $m[7], $m[8] * $x + $m[9] * $y + $m[10] * $z + $m[11]];
    }

    /** @return array{float, float, float} a place in the camera's axes back in the cloud's. (Its rotation is turned round: it is one.) */
    public function placed(float $x, float $y, float $z): array
    {
        $m = $this->toCamera;
        [$x, $y, $z] = [$x - $m[3], $y - $m[7], $z - $m[11]];

        return [$m[0] * $x + $m[4] * $y + $m[8] * $z, $m[1] * $x + $m[5] * $y + $m[9] * $z, $m[2] * $x + $m[6] * $y + $m[10] * $z];
    }

    /** @return ?array{float, float} px; null: it is behind, or too near */
    public function project(float $x, float $y, float $z): ?array
    {
        [$cx, $cy, $cz] = $this->seen($x, $y, $z);
        $p = $this->projection;
        $depth = $p[8] * $cx + $p[9] * $cy + $p[10] * $cz + $p[11];
        if ($cz < self::NEAR || $depth <= 0) {
            return null;
        }

        return [($p[0] * $cx + $p[1] * $cy + $p[2] * $cz + $p[3]) / $depth, ($p[4] * $cx + $p[5] * $cy + $p[6] * $cz + $p[7]) / $depth];
    }

    /**
     * The box around a cuboid on the picture, as far as it is on it, and the share of the whole box that is not.
     *
     * @return ?array{Box, float} null: nothing of it is on the picture
     */
    public function around(Cuboid $cuboid): ?array
    {
        $u = $v = [];
        foreach ($cuboid->corners() as $corner) {
            $at = $this->project(...$corner);
            if ($at === null) {
                return null;
            }
            $u[] = $at[0];
            $v[] = $at[1];
        }
        if ($u === []) {
            return null;
        }
        $whole = Box::of(min($u), min($v), max($u) - min($u), max($v) - min($v));
        $on = $whole->clippedTo($this->width, $this->height);
        $all = $whole->width * $whole->height;

        return $on === null || $all <= 0 ? null : [$on, max(0.0, 1 - $on->width * $on->height / $all)];
    }
}
