<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Kitti;

use Skeno\Core\Cloud\Camera;
use Skeno\Core\Cloud\KittiCalibration;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Track;

/**
 * Writes cuboids as KITTI has them, `<sequence>/label_2/<frame>.txt` with `<sequence>/calib/<frame>.txt`, frames called as their scans were. It is told
 * in the axes of the first camera, so a cloud of which nobody knows where a camera is can't be said; nor can what is on no picture.
 */
final class KittiWriter implements DatasetWriter
{
    public function __construct(private readonly Codebook $codebook)
    {
    }

    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $report = new MappingReport;
        foreach ($dataset->items() as $item) {
            $camera = self::camera($item);
            if ($item->frames === null || $camera === null) {
                $report->count($item->frames === null ? 'items that are no clouds were left out' : self::why($item));

                continue;
            }
            if ($item->said->tags !== [] || $item->said->answers !== []) {
                $report->count('what is said of a cloud as a whole is not held');
            }
            foreach ($item->marks as $mark) {
                if ($mark->answers !== [] || array_filter($mark->keys, static fn ($key): bool => $key->answers !== []) !== []) {
                    $report->count('answers of cuboids are not held');
                }
                if ($mark->flags !== [] || $mark->partOf !== null) {
                    $report->count('flags of cuboids, and what they are a part of, are not held');
                }
            }
            if ($item->frames > 1 && $item->marks !== []) {
                $report->count('that cuboids of several frames are of one object is not held', count($item->marks));
            }
            $tracks = array_map(static fn (Mark $mark): Track => $mark->track(), $item->marks);
            for ($frame = 0; $frame < $item->frames; $frame++) {
                $lines = '';
                foreach ($item->marks as $n => $mark) {
                    $cuboid = self::at($tracks[$n], $frame);
                    $seen = $cuboid === null ? null : $camera->around($cuboid);
                    if ($cuboid === null || $seen === null) {
                        if ($cuboid !== null) {
                            $report->count('cuboids that are on no picture were left out');
                        }

                        continue;
                    }
                    $lines .= $this->type($mark).' '.implode(' ', KittiLine::write($cuboid, $camera, $seen, $tracks[$n]->isHidden($frame)))."\n";
                }
                if ($item->labelled !== Labelled::Unlabelled) {
                    $stem = self::stem($item, $frame);
                    $folder->write("{$item->path}/label_2/{$stem}.txt", $lines);
                    $folder->write("{$item->path}/calib/{$stem}.txt", KittiCalibration::write($camera));
                }
            }
            if ($pictures) {
                // (a sequence is a zip of its frames)
                $folder->take("{$item->path}/scans.zip", $dataset->pictureFile($item));
            }
        }

        return $report;
    }

    public function hold(DatasetItem $item): iterable
    {
        $camera = self::camera($item);
        if ($camera === null) {
            return;
        }
        foreach ($item->marks as $mark) {
            $track = $mark->track();
            for ($frame = 0; $frame < $item->frames; $frame++) {
                $cuboid = self::at($track, $frame);
                $seen = $cuboid === null ? null : $camera->around($cuboid);
                if ($cuboid !== null && $seen !== null) {
                    $held = KittiLine::read(KittiLine::write($cuboid, $camera, $seen, $track->isHidden($frame)), $camera);
                    yield new Held($mark, $held, KittiLine::lean($camera) > 0.01, $frame, $cuboid, $track->isHidden($frame));
                }
            }
        }
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.005;
    }

    /** The camera a cloud is told by; null: none, or one that leans too much. */
    public static function camera(DatasetItem $item): ?Camera
    {
        $camera = $item->rig->cameras[0] ?? null;

        return $camera === null || KittiLine::lean($camera) > KittiLine::MOST_LEAN ? null : $camera;
    }

    private static function why(DatasetItem $item): string
    {
        return ($item->rig->cameras ?? []) === []
            ? 'clouds of which nobody knows where a camera is can not be said and were left out (calibration: calib/, calib.txt or cameras.json)'
            : 'clouds whose camera leans by more than '.(int) KittiLine::MOST_LEAN.'° against what is up can not be said and were left out';
    }

    public static function stem(DatasetItem $item, int $frame): string
    {
        return $item->rig->stems[$frame] ?? sprintf('%06d', $frame);
    }

    /** KITTI parts its words by spaces. */
    private function type(Mark $mark): string
    {
        $class = $this->codebook->classes[$mark->class];

        return $class->ignore ? KittiLine::IGNORED : (string) preg_replace('/\s+/', '_', $this->codebook->exportName($class));
    }

    private static function at(Track $track, int $frame): ?Cuboid
    {
        $shape = $track->shape($frame);

        return $shape instanceof Cuboid && ! $shape->isEmpty() ? $shape : null;
    }
}
