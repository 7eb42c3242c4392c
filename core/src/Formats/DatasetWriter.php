<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** Writes a dataset in one format, streaming: memory does not grow with the dataset. Same dataset, same bytes. */
interface DatasetWriter
{
    /** Writes the label files, and the pictures where asked, into an empty folder. Unlabelled items are written only when the dataset holds them. */
    public function write(Dataset $dataset, Folder $folder, bool $pictures): MappingReport;

    /**
     * What the format holds of an item: each mark as a reader gives it back; a mark it can't hold is missing.
     *
     * @return iterable<Held> of a track one for each place it is held at
     */
    public function hold(DatasetItem $item): iterable;

    /** How far, in px, a held coordinate may lie from the true one where the shape is of the same kind. */
    public function tolerance(DatasetItem $item): float;
}
