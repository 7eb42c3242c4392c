<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Cloud;

use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Cloud\CloudLimits;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Making;
use Skeno\Core\Cloud\Points;
use Skeno\Core\Cloud\Source;

/** Files of clouds in a folder of their own, for tests. */
final class Clouds
{
    public readonly string $folder;

    public function __construct()
    {
        $this->folder = sys_get_temp_dir().'/clouds-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    public function __destruct()
    {
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    public function file(string $bytes, string $name): string
    {
        file_put_contents($file = "{$this->folder}/".bin2hex(random_bytes(4))."-{$name}", $bytes);

        return $file;
    }

    public function open(string $bytes, string $name, CloudLimits $limits = new CloudLimits): Source
    {
        return CloudFile::open($this->file($bytes, $name), $name, $limits);
    }

    /** All its points at once. */
    public function points(string $bytes, string $name): Points
    {
        return self::all($this->open($bytes, $name));
    }

    public static function all(Source $source): Points
    {
        $all = null;
        foreach ($source->points() as $some) {
            $join = static fn (?array $a, ?array $b): ?array => $a === null || $b === null ? null : [...$a, ...$b];
            $all = $all === null ? $some : new Points([...$all->x, ...$some->x], [...$all->y, ...$some->y], [...$all->z, ...$some->z], $join($all->intensity, $some->intensity), $join($all->class, $some->class), $join($all->colour, $some->colour));
        }

        return $all ?? new Points([], [], []);
    }

    /**
     * A frame made of points.
     *
     * @param  list<array{float, float, float}>  $points
     */
    public function frame(array $points): Frame
    {
        (new Making)->make([$this->open(self::kitti($points), 'scan.bin')], $folder = $this->room());

        return Frame::open($folder, 0);
    }

    public function room(): string
    {
        mkdir($folder = "{$this->folder}/".bin2hex(random_bytes(4)));

        return $folder;
    }

    /** @param  list<array{float, float, float}>  $points */
    public static function kitti(array $points): string
    {
        return implode('', array_map(static fn (array $point): string => pack('gggg', $point[0], $point[1], $point[2], $point[3] ?? 0.5), $points));
    }
}
