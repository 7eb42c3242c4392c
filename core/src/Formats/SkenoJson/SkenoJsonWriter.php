<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\SkenoJson;

use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\DatasetWriter;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Held;
use Skeno\Core\Formats\MappingReport;
use Skeno\Core\Json\Lines;

/** Skeno's own complete JSON (`skeno/1`, docs/skeno.schema.json), one item a line; also the form a release is frozen in. */
final readonly class SkenoJsonWriter implements DatasetWriter
{
    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport
    {
        $out = $folder->create('dataset.json');
        self::stream($dataset, $out);
        fclose($out);
        if ($pictures) {
            foreach ($dataset->items() as $item) {
                // a text is in the file itself
                if ($item->text === null) {
                    $folder->take("images/{$item->path}", $dataset->pictureFile($item));
                }
            }
        }

        return new MappingReport;
    }

    /** @param  resource  $out */
    public static function stream(Dataset $dataset, $out): void
    {
        fwrite($out, "{\"skeno\":\"skeno/1\",\n\"name\":".Lines::encode($dataset->name).",\n\"codebook\":".Lines::encode($dataset->codebook->toArray()).",\n\"items\":[");
        $first = true;
        foreach ($dataset->items() as $item) {
            $line = ($first ? "\n" : ",\n").Lines::encode($item->toArray());
            if (@fwrite($out, $line) !== strlen($line)) {
                throw new \RuntimeException('the dataset could not be written: is the disk full?');
            }
            $first = false;
        }
        fwrite($out, "]}\n");
    }

    /** @return list<Held> */
    public function hold(DatasetItem $item): array
    {
        $held = [];
        foreach ($item->marks as $mark) {
            $held[] = new Held($mark, $mark->geometry);
            foreach ($mark->keys as $key) {
                if ($key->geometry !== null) {
                    $held[] = new Held($mark, $key->geometry, false, $key->place, $key->geometry, $key->hidden);
                }
            }
        }

        return $held;
    }

    public function tolerance(DatasetItem $item): float
    {
        return 0.0;
    }
}
