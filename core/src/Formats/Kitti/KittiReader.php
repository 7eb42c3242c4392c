<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Kitti;

use Closure;
use Skeno\Core\Cloud\Camera;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/**
 * Reads KITTI's labels, `<sequence>/label_2/<frame>.txt`, by the camera the sequence came with. Nothing in them says which cuboids of several frames
 * are one thing, so each line is an object of its own.
 */
final readonly class KittiReader implements LabelReader
{
    private const MOST_BYTES = 4 << 20;

    /** @param  Closure(): string  $newId */
    public function __construct(private Codebook $codebook, private Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        if (! is_dir($path)) {
            throw UnreadableLabels::because('KITTI labels are a folder: <sequence>/label_2/<frame>.txt');
        }
        $folder = new Folder($path);
        /** @var array<array-key, non-empty-list<string>> $of */
        $of = [];
        foreach ($folder->files() as $file) {
            if (preg_match('#^(.*/|)label_2/[^/]+\.txt$#D', $file, $m) === 1) {
                $of[rtrim($m[1], '/')][] = $file;
            }
        }
        if ($of === []) {
            throw UnreadableLabels::because('there are no KITTI labels (<sequence>/label_2/<frame>.txt) in the folder');
        }
        foreach ($of as $name => $files) {
            $name = (string) $name;
            $cloud = $pictures->find($name === '' ? basename($folder->root) : $name);
            $camera = is_string($cloud) ? $cloud : self::camera($cloud);
            if (is_string($cloud) || is_string($camera)) {
                yield new Skipped("{$name}/label_2", 'the whole folder', is_string($camera) ? $camera : '');

                continue;
            }
            yield from $this->sequence($folder, $files, $cloud, $camera);
        }
    }

    /** The camera labels of a cloud are told by, or why there is none. */
    private static function camera(KnownPicture $cloud): Camera|string
    {
        $camera = $cloud->rig->cameras[0] ?? null;

        return match (true) {
            ! $cloud->isCloud => "\"{$cloud->path}\" is no cloud",
            $camera === null => "nobody knows where a camera of \"{$cloud->path}\" is: bring it in with its calibration (calib/, calib.txt or cameras.json)",
            KittiLine::lean($camera) > KittiLine::MOST_LEAN => 'its camera leans by more than '.(int) KittiLine::MOST_LEAN.'° against what is up',
            default => $camera,
        };
    }

    /**
     * @param  list<string>  $files
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function sequence(Folder $folder, array $files, KnownPicture $cloud, Camera $camera): iterable
    {
        $marks = [];
        foreach ($files as $file) {
            $frame = $cloud->rig?->frame(basename($file, '.txt'));
            if ($frame === null) {
                yield new Skipped($file, 'the whole file', 'no frame of "'.$cloud->path.'" was called so');

                continue;
            }
            foreach (preg_split('/\R/', $folder->read($file, self::MOST_BYTES)) ?: [] as $n => $line) {
                $words = preg_split('/\s+/', trim($line)) ?: [];
                $type = array_shift($words) ?? '';
                if ($type === '') {
                    continue;
                }
                $class = $this->class($type);
                try {
                    if ($class === null) {
                        throw InvalidValue::at('type', $type, 'a class of the codebook');
                    }
                    $cuboid = KittiLine::read($words, $camera);
                    $marks[] = Mark::along(($this->newId)(), $class->key, [Key::of($frame, $cuboid, hidden: ($words[1] ?? '') === '3')], Places::stretch($frame, $frame));
                } catch (InvalidValue $e) {
                    if ($type === KittiLine::IGNORED) {
                        yield new Notice('regions nobody should care for are boxes alone and were left out');
                    } else {
                        yield new Skipped($file, 'line '.($n + 1), $e->getMessage());
                    }
                }
            }
        }
        yield new ReadLabels($cloud, $marks, $marks === [] ? Labelled::Nothing : Labelled::Objects);
    }

    private function class(string $type): ?LabelClass
    {
        if ($type === KittiLine::IGNORED) {
            foreach ($this->codebook->classes as $class) {
                if ($class->ignore) {
                    return $class;
                }
            }
        }

        return $this->codebook->classNamed($type) ?? $this->codebook->classNamed(str_replace('_', ' ', $type));
    }
}
