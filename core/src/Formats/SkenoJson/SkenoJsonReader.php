<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\SkenoJson;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Join;
use Skeno\Core\InvalidValue;
use Skeno\Core\Json\ElementStream;
use Skeno\Core\Json\MalformedJson;

final class SkenoJsonReader implements LabelReader
{
    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $file = is_dir($path) ? "{$path}/dataset.json" : $path;
        $name = basename($file);
        foreach (self::elements($file) as [$i, $data]) {
            try {
                $item = DatasetItem::fromArray($data, "items[{$i}]");
            } catch (InvalidValue $e) {
                yield new Skipped($name, "items[{$i}]", $e->getMessage());

                continue;
            }
            $picture = $pictures->find($item->path);
            if (is_string($picture)) {
                yield new Skipped($name, "items[{$i}]", $picture);

                continue;
            }
            $marks = $ids = [];
            foreach ($item->marks as $mark) {
                $ids[$mark->id] = ($this->newId)();
            }
            foreach ($item->marks as $j => $mark) {
                $joins = $mark->geometry instanceof Join;
                if ($joins ? ! isset($this->codebook->relations[$mark->class]) : $this->codebook->class($mark->class) === null) {
                    yield new Skipped($name, "items[{$i}].marks[{$j}] (id {$mark->id})", 'the codebook has no '.($joins ? 'relation' : 'class')." \"{$mark->class}\"");
                } elseif ($mark->geometry instanceof Join && $mark->geometry->among($ids) === null) {
                    yield new Skipped($name, "items[{$i}].marks[{$j}] (id {$mark->id})", 'what it joins is not there');
                } else {
                    $marks[] = $mark->copy($ids[$mark->id], $mark->partOf === null ? null : $ids[$mark->partOf] ?? null, $ids);
                }
            }
            if ($marks !== [] || $item->marks === []) {
                yield new ReadLabels($picture, $marks, $item->labelled, $item->part, $item->said->isEmpty() ? null : $item->said);
            }
        }
    }

    /**
     * The items of a frozen dataset, exactly as they were written.
     *
     * @return iterable<DatasetItem>
     */
    public static function items(string $file): iterable
    {
        foreach (self::elements($file) as [$i, $data]) {
            yield DatasetItem::fromArray($data, "items[{$i}]", known: true);
        }
    }

    /** @return iterable<array{int, mixed}> */
    private static function elements(string $file): iterable
    {
        // gzopen reads a plain file as it is
        $stream = @gzopen($file, 'rb');
        if ($stream === false) {
            throw UnreadableLabels::because('"'.basename($file).'" can\'t be read');
        }
        $known = false;
        try {
            foreach (ElementStream::read($stream, ['items'], ['skeno']) as [$member, $i, $data]) {
                if ($member === 'skeno') {
                    $known = $data === 'skeno/1';
                } elseif ($known && $i === null && $data === []) {
                    continue;
                } elseif (! $known || $i === null) {
                    throw UnreadableLabels::because('"'.basename($file).'" is not a Skeno dataset (skeno/1)');
                } else {
                    yield [$i, $data];
                }
            }
        } catch (MalformedJson $e) {
            throw UnreadableLabels::because(basename($file).": {$e->getMessage()}");
        } finally {
            gzclose($stream);
        }
        if (! $known) {
            throw UnreadableLabels::because('"'.basename($file).'" is not a Skeno dataset (skeno/1)');
        }
    }
}
