<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

/** Reads label files of one format, streaming. Nothing a file names is ever fetched, run or opened outside its folder. */
interface LabelReader
{
    /**
     * @param  string  $path  a label file or the folder that holds the label files
     * @return iterable<ReadLabels|Skipped|Notice>
     *
     * @throws UnreadableLabels when the file as a whole is not of this format
     */
    public function read(string $path, KnownPictures $pictures): iterable;
}
