<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

/** How large a document may be and what drawing it may take, so that one file can't take the machine. */
final readonly class DocumentLimits
{
    /**
     * @param  int  $maxPixels  of a page as it is drawn
     * @param  int  $memory  bytes of address space a program may have
     * @param  int  $patience  seconds a program may run: for a page that is drawn or read, for the words of all of them ten times as long
     */
    public function __construct(
        public int $maxBytes = 500_000_000,
        public int $maxPages = 2_000,
        public int $maxPixels = 40_000_000,
        public int $memory = 2_000_000_000,
        public int $patience = 60,
    ) {
    }

    /** @throws RefusedDocument when a page of so many px can't be drawn */
    public function mustHold(int $page, int $width, int $height): void
    {
        if ($width < 4 || $height < 4) {
            throw RefusedDocument::because("page {$page} has no size ({$width} × {$height} px)");
        }
        if ($width * $height > $this->maxPixels || max($width, $height) > 16_000) {
            throw RefusedDocument::because("page {$page} is {$width} × {$height} px; at most ".round($this->maxPixels / 1e6).' million and 16000 a side are taken; a lower resolution may do');
        }
    }

    /** @throws RefusedDocument */
    public function mustCount(int $pages): void
    {
        if ($pages > $this->maxPages) {
            throw RefusedDocument::because('it has '.number_format($pages).' pages; at most '.number_format($this->maxPages).' are taken');
        }
    }
}
