<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Cuboids;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Fields;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Json\ElementStream;
use Skeno\Core\Json\MalformedJson;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/**
 * Reads cuboids from a table or from JSON, see CuboidsWriter; columns may stand in any order. Without a frame a line is of the only one there is;
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
        $file = is_dir($path) ? "{$path}/cuboids.".(is_file("{$path}/cuboids.csv") || ! is_file("{$path}/cuboids.json") ? 'csv' : 'json') : $path;
        if (! is_file($file) || ! is_readable($file)) {
            throw UnreadableLabels::because(is_dir($path) ? 'there is neither cuboids.csv nor cuboids.json in the folder' : basename($file).' can\'t be read');
        }
        $isJson = strtolower(pathinfo($file, PATHINFO_EXTENSION)) === 'json';
        yield from $this->lines($isJson ? $this->elements($file) : $this->table($file), $isJson ? 'cuboid' : 'line', basename($file), $pictures);
    }

    /** @return iterable<int, array<string, string>|string> cells by column, by the number of the line */
    private function table(string $file): iterable
    {
        $in = @fopen($file, 'rb') ?: throw UnreadableLabels::because(basename($file).' can\'t be read');
        try {
            $columns = self::columns($in, basename($file));
            for ($n = 2; ($row = fgetcsv($in, 1 << 16, ',', '"', '')) !== false; $n++) {
                if ($row !== [null]) {
                    yield $n => array_map(static fn (int $i): string => trim($row[$i] ?? ''), $columns);
                }
            }
        } finally {
            fclose($in);
        }
    }

    /** @return iterable<int, array<string, string>|string> the same of the elements of `cuboids`, counted from 1; or what is wrong with one */
    private function elements(string $file): iterable
    {
        $any = false;
        try {
            foreach (ElementStream::ofFile($file, ['cuboids']) as [$list, $i, $data]) {
                if ($list === 'cuboids' && $i !== null) {
                    $any = true;
                    try {
                        $cells = self::cells(Fields::of($data, 'cuboid'));
                    } catch (InvalidValue $e) {
                        $cells = $e->getMessage();
                    }
                    yield $i + 1 => $cells;
                } elseif ($list === 'cuboids') {
                    $any = true;
                }
            }
        } catch (MalformedJson $e) {
            throw UnreadableLabels::because(basename($file).': '.$e->getMessage());
        }
        if (! $any) {
            throw UnreadableLabels::because(basename($file).': it has no list "cuboids"');
        }
    }

    /**
     * @return array<string, string>
     *
     * @throws InvalidValue
     */
    private static function cells(Fields $in): array
    {
        $word = static fn (string $key): string => ! $in->has($key) ? '' : (is_string($in->raw($key)) || is_int($in->raw($key)) ? (string) $in->raw($key) : throw InvalidValue::at($in->path($key), $in->raw($key), 'a word or a whole number'));
        $cells = ['file' => $in->string('file', 4_000), 'frame' => $word('frame'), 'track' => $word('track'), 'class' => $word('class')] + array_fill_keys(CuboidLine::NUMBERS, '');
        if (! $in->has('center')) {
            return $cells;
        }
        $numbers = [];
        foreach (['center' => 3, 'size' => 3, 'rotation' => 4] as $key => $count) {
            $list = $in->list($key);
            if (count($list) !== $count) {
                throw InvalidValue::at($in->path($key), count($list).' numbers', "{$count} numbers");
            }
            foreach ($list as $i => $number) {
                $numbers[] = is_int($number) || is_float($number) ? (string) $number : throw InvalidValue::at($in->path($key)."[{$i}]", $number, 'a number');
            }
        }

        return array_combine(CuboidLine::NUMBERS, $numbers) + $cells;
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
     * @param  iterable<int, array<string, string>|string>  $rows
     * @param  string  $one  what a row is called
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function lines(iterable $rows, string $one, string $name, KnownPictures $pictures): iterable
    {
        $done = [];
        $now = null;
        $of = null;
        /** @var array<string, array{LabelClass, array<int, Key>}> $tracks */
        $tracks = [];
        $held = 0;
        foreach ($rows as $n => $cells) {
            if ($n > self::MOST_LINES) {
                yield new Skipped($name, "{$one} {$n}", 'more than '.number_format(self::MOST_LINES).' lines; what follows was not read');

                break;
            }
            if (is_string($cells)) {
                yield new Skipped($name, "{$one} {$n}", $cells);

                continue;
            }
            if ($cells['file'] !== $now) {
                if ($of !== null) {
                    yield $this->whole($of, $tracks);
                }
                [$now, $tracks, $held, $of] = [$cells['file'], [], 0, null];
                $found = isset($done[$now]) ? 'the lines of one file have to stand together' : $pictures->find($now);
                $done[$now] = true;
                if (is_string($found)) {
                    yield new Skipped($name, "from {$one} {$n}", $found);
                } elseif (! $found->isCloud) {
                    yield new Skipped($name, "from {$one} {$n}", "\"{$found->path}\" is no cloud");
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
                yield new Skipped($name, "{$one} {$n}", $e->getMessage());
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
