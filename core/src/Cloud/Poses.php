<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\InvalidValue;

/**
 * Where the scanner was at each frame: from the axes of the frame to those of the ground, whatever these are.
 *
 * `poses.json`, `{"poses": [12 numbers, …]}`, in the axes of the cloud; or `poses.txt` as KITTI's odometry has it, a line of 12 numbers a frame in the axes
 * of the first camera, which needs to be known.
 */
final class Poses
{
    public const JSON = 'poses.json';

    public const KITTI = 'poses.txt';

    /**
     * @return list<Rigid>
     *
     * @throws InvalidValue
     */
    public static function json(string $said, int $frames, string $path): array
    {
        $data = json_decode($said, true);
        $poses = is_array($data) && is_array($data['poses'] ?? null) ? array_values($data['poses']) : throw InvalidValue::at($path, null, 'JSON: {"poses": [[12 numbers], …]}');

        return self::all($poses, $frames, $path);
    }

    /**
     * @return list<Rigid>
     *
     * @throws InvalidValue
     */
    public static function kitti(string $said, int $frames, Camera $camera, string $path): array
    {
        $poses = [];
        foreach (preg_split('/\R/', trim($said)) ?: [] as $line) {
            $poses[] = array_map(static fn (string $word): float|string => is_numeric($word) ? (float) $word : $word, preg_split('/\s+/', trim($line)) ?: []);
        }
        $to = Rigid::of($camera->toCamera, 'to_camera');

        return array_map(static function (Rigid $pose) use ($to, $path): Rigid {
            $at = static fn (float $x, float $y, float $z): array => $to->back(...$pose->place(...$to->place($x, $y, $z)));
            [$o, $x, $y, $z] = [$at(0, 0, 0), $at(1, 0, 0), $at(0, 1, 0), $at(0, 0, 1)];
            $rows = [];
            foreach ([0, 1, 2] as $row) {
                array_push($rows, $x[$row] - $o[$row], $y[$row] - $o[$row], $z[$row] - $o[$row], $o[$row]);
            }

            return Rigid::of($rows, $path);
        }, self::all($poses, $frames, $path));
    }

    /**
     * @param  list<mixed>  $poses
     * @return list<Rigid>
     *
     * @throws InvalidValue
     */
    private static function all(array $poses, int $frames, string $path): array
    {
        if (count($poses) !== $frames) {
            throw InvalidValue::at($path, count($poses).' poses', "one for each of the {$frames} frames");
        }
        $all = [];
        foreach ($poses as $i => $pose) {
            $all[] = Rigid::of(is_array($pose) ? $pose : [], "{$path}[{$i}]");
        }

        return $all;
    }
}
