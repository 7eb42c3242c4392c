<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Mot;

use Closure;
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
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/**
 * Reads MOT ground truth: `<clip's path without its ending>/gt/gt.txt`, see MotWriter for its lines. Classes are numbered in the order of the
 * `labels.txt` beside it, else of the codebook. A track is read with a key for every frame it is in.
 */
final readonly class MotReader implements LabelReader
{
    /** Lines of one clip that are taken. */
    private const MOST_LINES = 5_000_000;

    /** @param  Closure(): string  $newId */
    public function __construct(private Codebook $codebook, private Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path, 3));
        $any = false;
        foreach (is_dir($path) ? $folder->files() : [substr($path, strlen($folder->root) + 1)] as $file) {
            if (preg_match('#(^|/)gt/gt\.txt$#', $file) !== 1) {
                continue;
            }
            $any = true;
            $stem = dirname($file, 2);
            $clip = $pictures->find($stem === '.' ? basename($folder->root) : $stem, true);
            // the folder of one of two clips of one name is named with its ending
            $clip = is_string($clip) ? $pictures->find($stem) : $clip;
            if (is_string($clip)) {
                yield new Skipped($file, 'the whole file', $clip);
            } elseif ($clip->places === null) {
                yield new Skipped($file, 'the whole file', "\"{$clip->path}\" is no clip");
            } else {
                yield from $this->file($folder, $file, $clip);
            }
        }
        if (! $any) {
            throw UnreadableLabels::because('there is no MOT ground truth (<clip>/gt/gt.txt) in the folder');
        }
    }

    /** @return iterable<ReadLabels|Skipped|Notice> */
    private function file(Folder $folder, string $file, KnownPicture $clip): iterable
    {
        $labels = dirname($file).'/labels.txt';
        $classes = $this->classes($folder->has($labels) ? $folder->read($labels, 1 << 20) : null);
        $in = @fopen($folder->file($file), 'rb');
        if ($in === false) {
            yield new Skipped($file, 'the whole file', 'it can\'t be read');

            return;
        }
        $tracks = $class = [];
        for ($n = 1; ($line = fgets($in, 4096)) !== false; $n++) {
            if (trim($line) === '') {
                continue;
            }
            if ($n > self::MOST_LINES) {
                yield new Skipped($file, "line {$n}", 'more than '.number_format(self::MOST_LINES).' lines; what follows was not read');

                break;
            }
            try {
                [$id, $number, $key] = self::line(trim($line), $clip->places ?? 0);
            } catch (InvalidValue $e) {
                yield new Skipped($file, "line {$n}", $e->getMessage());

                continue;
            }
            $of = $classes[$number] ?? null;
            if (! $of instanceof LabelClass) {
                yield new Skipped($file, "line {$n}", $of === null ? "there is no class {$number}" : "the codebook has no class \"{$of}\"");
            } elseif (($class[$id] ??= $of) !== $of) {
                yield new Skipped($file, "line {$n}", "track {$id} was of {$class[$id]->name} before");
            } elseif (isset($tracks[$id][$key->place])) {
                yield new Skipped($file, "line {$n}", "track {$id} has been in frame ".($key->place + 1).' already');
            } else {
                $tracks[$id][$key->place] = $key;
            }
        }
        fclose($in);
        ksort($tracks);
        $marks = [];
        foreach ($tracks as $id => $keys) {
            ksort($keys);
            $there = array_map(static fn (int $place): array => [$place, $place], array_keys($keys));
            $marks[] = Mark::along(($this->newId)(), $class[$id]->key, array_values($keys), Places::fromArray($there));
        }
        yield new ReadLabels($clip, $marks, $marks === [] ? Labelled::Nothing : Labelled::Objects);
    }

    /**
     * @return array{int, int, Key} the track, the number of its class, where it is
     *
     * @throws InvalidValue
     */
    private static function line(string $line, int $places): array
    {
        $fields = array_map(trim(...), explode(',', $line));
        if (count($fields) < 6) {
            throw InvalidValue::at('line', $line, 'frame,id,left,top,width,height,conf,class,visibility');
        }
        $numbers = [];
        foreach (['frame', 'id', 'left', 'top', 'width', 'height', 'conf', 'class', 'visibility'] as $i => $name) {
            // older files end before the last ones
            $text = $fields[$i] ?? '1';
            $numbers[] = is_numeric($text) && is_finite((float) $text) ? (float) $text : throw InvalidValue::at($name, $text, 'a number');
        }
        [$frame, $id, $left, $top, $width, $height, , $class, $visibility] = $numbers;
        if ($frame < 1 || $frame > $places || floor($frame) !== $frame) {
            throw InvalidValue::at('frame', $fields[0], "a frame from 1 to {$places}");
        }
        if ($id < 0 || $id > 1e9 || floor($id) !== $id) {
            throw InvalidValue::at('id', $fields[1], 'the number of a track');
        }
        if ($width <= 0 || $height <= 0) {
            throw InvalidValue::at($width <= 0 ? 'width' : 'height', $width <= 0 ? $width : $height, 'more than 0');
        }
        // what was a decimal there is one here, whatever adding 1 made of its last bit
        $back = static fn (float $from): float => round($from - 1, 9);

        return [(int) $id, (int) $class, Key::of((int) $frame - 1, Box::of($back($left), $back($top), $width, $height), hidden: $visibility <= 0.0)];
    }

    /** @return array<int, LabelClass|string> by number: the class, or a name the codebook does not have */
    private function classes(?string $labels): array
    {
        $classes = [];
        $names = $labels === null ? null : array_values(array_filter(array_map(trim(...), preg_split('/\R/', $labels) ?: []), static fn (string $name): bool => $name !== ''));
        foreach ($names ?? array_values($this->codebook->classes) as $i => $class) {
            $classes[$i + 1] = $class instanceof LabelClass ? $class : ($this->codebook->classNamed($class) ?? $class);
        }

        return $classes;
    }
}
