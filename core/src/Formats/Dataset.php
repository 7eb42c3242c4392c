<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Closure;
use Skeno\Core\Codebook\Codebook;

/** What a format is written from. Items come as a stream that can be begun again, in byte order of their paths. */
final readonly class Dataset
{
    /**
     * @param  Closure(): iterable<DatasetItem>  $items
     * @param  Closure(DatasetItem): string  $picture  the file with the original bytes of an item
     * @param  ?Closure(): iterable<DatasetItem>  $clips  where clips have been taken apart into pictures: the whole ones
     */
    public function __construct(public string $name, public Codebook $codebook, private Closure $items, private Closure $picture, private ?Closure $clips = null)
    {
    }

    /** @return iterable<DatasetItem> */
    public function items(): iterable
    {
        return ($this->items)();
    }

    /** @return iterable<DatasetItem> the items as they were before clips were taken apart into pictures */
    public function clips(): iterable
    {
        return ($this->clips ?? $this->items)();
    }

    public function pictureFile(DatasetItem $item): string
    {
        return ($this->picture)($item);
    }
}
