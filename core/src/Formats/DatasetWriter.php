<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Marks\Mark;

/** Writes a dataset in one format, streaming: memory does not grow with the dataset. Same dataset, same bytes. */
interface DatasetWriter
{
    /** Writes the label files, and the pictures where asked, into an empty folder. Unlabelled items are written only when the dataset holds them. */
    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport;

    /** The box as the format holds it, after its rounding; null when it can't hold the mark. */
    public function hold(Mark $mark, DatasetItem $item): ?Box;

    /** How far, in px, a held coordinate may lie from the true one. */
    public function tolerance(DatasetItem $item): float;
}
