<?php

declare(strict_types=1);

namespace App\Intake;

use Closure;
use Illuminate\Support\Facades\File;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Cloud\Camera;
use Skeno\Core\Cloud\KittiCalibration;
use Skeno\Core\Cloud\Poses;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Cloud\Rigid;
use Skeno\Core\Cloud\Scene;
use Skeno\Core\Cloud\Sequence;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\InvalidValue;

/** Puts the scans of a folder together as the frames of one cloud, with the pictures of cameras beside them where something says where those are. */
final class Sequences
{
    /** Bytes of what says where cameras are, or the scanner. */
    private const MOST = 1 << 20;

    /**
     * @param  list<string>  $paths  of all files that came together
     * @param  Closure(string, string): mixed  $fetch  puts one of them where it is told
     * @return iterable<Bundled>
     */
    public function of(array $paths, Closure $fetch): iterable
    {
        foreach (Scene::all($paths) as $scene) {
            if (count($scene->frames) > Sequence::MOST) {
                yield new Bundled($scene->name, $scene->files(), '', 'it has '.number_format(count($scene->frames)).' frames; at most '.number_format(Sequence::MOST).' are taken');

                continue;
            }
            $room = storage_path('tmp/sequence-'.bin2hex(random_bytes(6)));
            File::ensureDirectoryExists($room, 0o770);
            try {
                $files = [];
                foreach ($scene->frames as $n => $path) {
                    $fetch($path, $file = "{$room}/{$n}");
                    $files[] = [$file, $path];
                }
                [$rig, $pictures] = $this->rig($scene, $fetch, $room);
                Sequence::make($files, "{$room}.zip", $rig, $pictures);
                yield new Bundled($scene->name, $scene->files(), "{$room}.zip", '', 'cloud.'.Sequence::ENDING);
            } catch (UnsafeArchive|InvalidValue $e) {
                @unlink("{$room}.zip");
                yield new Bundled($scene->name, $scene->files(), '', $e->getMessage());
            } finally {
                File::deleteDirectory($room);
            }
        }
    }

    /**
     * @param  Closure(string, string): mixed  $fetch
     * @return array{Rig, list<array<int, array{string, string}>>} and the pictures of each camera by frame, a file and how it ends
     *
     * @throws InvalidValue
     */
    private function rig(Scene $scene, Closure $fetch, string $room): array
    {
        $stems = array_map(static fn (string $frame): string => pathinfo($frame, PATHINFO_FILENAME), $scene->frames);
        if (count(array_unique($stems)) < count($stems)) {
            // (two of them differ by their ending alone)
            $stems = array_map(basename(...), $scene->frames);
        }
        if ($scene->calibration === null) {
            return [new Rig([], $stems, [], $this->poses($scene, null, $fetch, $room)), []];
        }
        $said = $this->said($scene->calibration, $fetch, $room);
        $pictures = $files = [];
        foreach ($scene->pictures as $name => $of) {
            foreach ($of as $frame => $path) {
                // (a folder may be called by any name)
                $fetch($path, $file = "{$room}/picture-".count($files)."-{$frame}");
                $format = PictureFormat::sniff((string) @file_get_contents($file, false, null, 0, 16));
                if ($format !== PictureFormat::Jpeg && $format !== PictureFormat::Png) {
                    throw InvalidValue::at($path, $format->value ?? 'no picture', 'a JPEG or PNG of a camera');
                }
                $files[$name][$frame] = [$file, $format === PictureFormat::Png ? 'png' : 'jpg'];
            }
        }
        $cameras = $this->cameras($scene, $said, $files);
        $endings = [];
        foreach ($cameras as $camera) {
            $of = $files[$camera->name] ?? (count($cameras) === 1 && count($files) === 1 ? array_values($files)[0] : []);
            $pictures[] = $of;
            $endings[] = array_map(static fn (int $frame): string => $of[$frame][1] ?? '', array_keys($stems));
        }

        return [new Rig($cameras, $stems, $endings, $this->poses($scene, $cameras[0] ?? null, $fetch, $room)), $pictures];
    }

    /**
     * @param  Closure(string, string): mixed  $fetch
     *
     * @throws InvalidValue
     */
    private function said(string $path, Closure $fetch, string $room): string
    {
        $fetch($path, $file = "{$room}/said");
        if ((int) @filesize($file) > self::MOST) {
            throw InvalidValue::at($path, filesize($file).' bytes', 'at most '.self::MOST);
        }

        return (string) file_get_contents($file);
    }

    /**
     * @param  Closure(string, string): mixed  $fetch
     * @return list<Rigid>
     *
     * @throws InvalidValue
     */
    private function poses(Scene $scene, ?Camera $camera, Closure $fetch, string $room): array
    {
        if ($scene->poses === null) {
            return [];
        }
        $said = $this->said($scene->poses, $fetch, $room);
        if (basename($scene->poses) === Poses::JSON) {
            return Poses::json($said, count($scene->frames), $scene->poses);
        }

        return Poses::kitti($said, count($scene->frames), $camera ?? throw InvalidValue::at($scene->poses, null, 'a calibration beside it: these poses are in the axes of a camera'), $scene->poses);
    }

    /**
     * @param  array<string, array<int, array{string, string}>>  $files
     * @return list<Camera>
     *
     * @throws InvalidValue
     */
    private function cameras(Scene $scene, string $said, array $files): array
    {
        $path = (string) $scene->calibration;
        if (basename($path) === Scene::CAMERAS) {
            $data = json_decode($said, true);

            return Rig::cameras(Fields::of(is_array($data) ? $data : throw InvalidValue::at($path, null, 'JSON: {"cameras": […]}'), $path));
        }
        // of the cameras of such a set the second one is meant, else the only one there is
        $name = isset($files['image_2']) ? 'image_2' : (string) (array_key_first($files) ?? 'camera');
        $first = array_values($files[$name] ?? [])[0][0] ?? null;
        $size = $first === null ? false : @getimagesize($first);
        try {
            return [KittiCalibration::read($said, substr(preg_replace('/[^\w-]+/', '-', $name) ?: 'camera', 0, 40), $size === false ? null : [$size[0], $size[1]])];
        } catch (InvalidValue $e) {
            throw InvalidValue::at($path, null, 'a calibration: '.$e->getMessage());
        }
    }
}
