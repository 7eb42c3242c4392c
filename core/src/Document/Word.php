<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Geometry\Box;

/** A word on a page. */
final readonly class Word
{
    /**
     * @param  Box  $box  in px of the page as it is drawn
     * @param  int  $line  words of one line have one number; they grow down the page as one reads
     * @param  ?float  $confidence  how sure who read it was, 0 to 1; null: it comes from the file itself
     */
    public function __construct(public string $text, public Box $box, public int $line, public ?float $confidence = null)
    {
    }
}
