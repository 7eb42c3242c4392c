<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Cuboids;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
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
 * Reads a table of cuboids, see CuboidsWriter for its columns; they may stand in any order. Without a frame a line is of the only one there is;
 * without a track each line is an object of its own. The lines of one file stand together, so that never more than those of one are held.
 */
final readonly class CuboidsReader implements LabelReader
{
    private const MOST_LINES = 20_000_000;

    /** Lines of one file: so many keys nobody could work with. */
    private const MOST_OF_ONE = 500_000;

    /** @param  Closure(): string  $newId */
    public function __construct(private Codebook $codebook, private Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $file = is_dir($path) ? "{$path}/cuboids.csv" : $path;
        $in = is_file($file) ? @fopen($file, 'rb') : false;
        if ($in === false) {
            throw UnreadableLabels::because(is_dir($path) ? 'there is no cuboids.csv in the folder' : basename($file).' can\'t be read');
        }
        try {
            $columns = self::columns($in, basename($file));
            yield from $this->lines($in, $columns, basename($file), $pictures);
        } finally {
            fclose($in);
        }
    }

    /**
     * @param  resource  $in
     * @return array<string, int> by name, where it stands
     */
    private static function columns($in, string $name): array
    {
        $first = fgetcsv($in, 1 << 16, ',', '"', '');
        $columns = [];
        foreach (is_array($first) ? $first : [] as $i => $column) {
            $columns[strtolower(trim((string) $column, "\u{FEFF} \t"))] ??= $i;
        }
        foreach (['file', 'class', ...CuboidLine::NUMBERS] as $needed) {
            if (! isset($columns[$needed])) {
                throw UnreadableLabels::because("{$name}: it has no column \"{$needed}\"");
            }
        }

        return $columns;
    }

    /**
     * @param  resource  $in
     * @param  array<string, int>  $columns
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function lines($in, array $columns, string $name, KnownPictures $pictures): iterable
    {
        $done = [];
        $now = null;
        $of = null;
        /** @var array<string, array{LabelClass, array<int, Key>}> $tracks */
        $tracks = [];
        $held = 0;
        for ($n = 2; ($row = fgetcsv($in, 1 << 16, ',', '"', '')) !== false; $n++) {
            if ($row === [null]) {
                continue;
            }
            if ($n > self::MOST_LINES) {
                yield new Skipped($name, "line {$n}", 'more than '.number_format(self::MOST_LINES).' lines; what follows was not read');

                break;
            }
            $cells = array_map(static fn (int $i): string => trim($row[$i] ?? ''), $columns);
            if ($cells['file'] !== $now) {
                if ($of !== null) {
                    yield $this->whole($of, $tracks);
                }
                [$now, $tracks, $held, $of] = [$cells['file'], [], 0, null];
                $found = isset($done[$now]) ? 'the lines of one file have to stand together' : $pictures->find($now);
                $done[$now] = true;
                if (is_string($found)) {
                    yield new Skipped($name, "from line {$n}", $found);
                } elseif (! $found->isCloud) {
                    yield new Skipped($name, "from line {$n}", "\"{$found->path}\" is no cloud");
                } else {
                    $of = $found;
                }
            }
            if ($of === null || ($cells['class'] === '' && $cells['x'] === '')) {
                continue;
            }
            try {
                if (++$held > self::MOST_OF_ONE) {
                    throw InvalidValue::at('line', $n, 'at most '.number_format(self::MOST_OF_ONE).' lines of one file');
                }
                $class = $this->codebook->classNamed($cells['class']) ?? throw InvalidValue::at('class', $cells['class'], 'a class of the codebook');
                $frame = self::frame($cells['frame'] ?? '', $of->places ?? 1);
                [$cuboid, $lean] = CuboidLine::read($cells);
                $track = ($cells['track'] ?? '') === '' ? "line {$n}" : "track {$cells['track']}";
                if (($tracks[$track][0] ?? $class) !== $class) {
                    throw InvalidValue::at('class', $cells['class'], "{$tracks[$track][0]->name}, as {$track} was before");
                }
                if (isset($tracks[$track][1][$frame])) {
                    throw InvalidValue::at('frame', $frame, "another one: {$track} is in it already");
                }
                $tracks[$track] = [$class, ($tracks[$track][1] ?? []) + [$frame => Key::of($frame, $cuboid)]];
                if ($lean > 0.01) {
                    yield new Notice('cuboids that lean are held upright');
                }
            } catch (InvalidValue $e) {
                yield new Skipped($name, "line {$n}", $e->getMessage());
            }
        }
        if ($of !== null) {
            yield $this->whole($of, $tracks);
        }
    }

    /** @param  array<string, array{LabelClass, array<int, Key>}>  $tracks */
    private function whole(KnownPicture $of, array $tracks): ReadLabels
    {
        $marks = [];
        foreach ($tracks as [$class, $keys]) {
            if ($keys === []) {
                continue;
            }
            ksort($keys);
            $there = array_map(static fn (int $place): array => [$place, $place], array_keys($keys));
            $marks[] = Mark::along(($this->newId)(), $class->key, array_values($keys), Places::fromArray($there));
        }

        return new ReadLabels($of, $marks, $marks === [] ? Labelled::Nothing : Labelled::Objects);
    }

    private static function frame(string $text, int $frames): int
    {
        if ($text === '' && $frames === 1) {
            return 0;
        }

        return ctype_digit($text) && (int) $text < $frames ? (int) $text : throw InvalidValue::at('frame', $text, 'a frame from 0 to '.($frames - 1));
    }
}
