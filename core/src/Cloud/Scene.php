<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Imaging\PictureFormat;

/**
 * Which files make a sequence: the scans of one folder in the order of their names, the pictures of cameras in folders beside it that are called
 * as the scans are, and what says where the cameras are: `cameras.json`, or as KITTI has it `calib.txt` or one in `calib/`; `poses.json` or
 * `poses.txt` say where the scanner was.
 */
final readonly class Scene
{
    /** Folders that only say that scans are in them: the sequence is what they lie in. */
    private const WITHIN = ['velodyne', 'velodyne_points', 'clouds', 'points', 'lidar'];

    public const CAMERAS = 'cameras.json';

    /**
     * @param  non-empty-list<string>  $frames  paths
     * @param  array<string, array<int, string>>  $pictures  by camera and frame
     * @param  ?string  $calibration  null: nothing says where cameras are, and their pictures are none of it
     * @param  ?string  $poses  null: nothing says where the scanner was
     * @param  list<string>  $beside  further paths that belong to it and are not needed: a calibration for each frame
     */
    private function __construct(public string $name, public array $frames, public array $pictures, public ?string $calibration, public ?string $poses, public array $beside)
    {
    }

    /** Whether a file may belong to one, by its name. */
    public static function mayHold(string $path): bool
    {
        return CloudFile::isNamed($path) || PictureFormat::ofName($path) !== null || self::isSaid($path);
    }

    private static function isSaid(string $path): bool
    {
        return in_array(basename($path), [self::CAMERAS, 'calib.txt', Poses::JSON, Poses::KITTI], true) || preg_match('#(^|/)calib/[^/]+\.txt$#', $path) === 1;
    }

    /** @return list<string> */
    public function files(): array
    {
        $all = [...$this->frames, ...$this->beside];
        foreach ($this->calibration === null ? [] : $this->pictures as $of) {
            array_push($all, ...array_values($of));
        }

        return array_values(array_unique([...$all, ...array_filter([$this->calibration, $this->poses], is_string(...))]));
    }

    /**
     * @param  list<string>  $paths  of all files
     * @return list<self> in the order of their names. Scans in no folder are no sequence
     */
    public static function all(array $paths): array
    {
        /** @var array<array-key, non-empty-list<string>> $folders (a name of digits is a number as a key) */
        $folders = [];
        /** @var array<array-key, array<array-key, string>> $pictures */
        $pictures = [];
        $said = [];
        foreach ($paths as $path) {
            if (CloudFile::isNamed($path)) {
                $folders[dirname($path)][] = $path;
            } elseif (PictureFormat::ofName($path) !== null) {
                $pictures[dirname($path)][pathinfo($path, PATHINFO_FILENAME)] = $path;
            } elseif (self::isSaid($path)) {
                $said[$path] = true;
            }
        }
        unset($folders['.']);
        ksort($folders, SORT_STRING);
        $scenes = [];
        foreach ($folders as $folder => $frames) {
            $folder = (string) $folder;
            usort($frames, static fn (string $a, string $b): int => strnatcasecmp($a, $b) ?: strcmp($a, $b));
            $root = in_array(strtolower(basename($folder)), self::WITHIN, true) ? dirname($folder) : $folder;
            $under = $root === '.' ? '' : "{$root}/";
            $stems = array_map(static fn (string $frame): string => pathinfo($frame, PATHINFO_FILENAME), $frames);
            $calibration = $beside = [];
            foreach (["{$under}".self::CAMERAS, "{$under}calib.txt", ...array_map(static fn (string $stem): string => "{$under}calib/{$stem}.txt", $stems)] as $path) {
                if (isset($said[$path])) {
                    $calibration === [] ? $calibration[] = $path : $beside[] = $path;
                }
            }
            $poses = null;
            foreach ([Poses::JSON, Poses::KITTI] as $name) {
                if (isset($said["{$under}{$name}"])) {
                    $poses === null ? $poses = "{$under}{$name}" : $beside[] = "{$under}{$name}";
                }
            }
            $found = [];
            foreach ($pictures as $of => $byStem) {
                $of = (string) $of;
                // in a folder beside, or among the scans
                if ($of !== $root && dirname($of) !== $root && ! ($root === '.' && dirname($of) === '.')) {
                    continue;
                }
                foreach ($stems as $frame => $stem) {
                    if (isset($byStem[$stem])) {
                        $found[$of === $root ? 'camera' : basename($of)][$frame] = $byStem[$stem];
                    }
                }
            }
            ksort($found, SORT_STRING);
            $scenes[] = new self($root === '.' ? $folder : $root, $frames, $found, $calibration[0] ?? null, $poses, $beside);
        }

        return $scenes;
    }
}
