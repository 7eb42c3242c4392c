<?php

declare(strict_types=1);

namespace App\Intake;

use Skeno\Core\Document\Bundle;

/** Files that were put together as one item, a document, a volume or a sequence, or why they could not be. */
final readonly class Bundled
{
    /**
     * @param  string  $name  of the item: its folder, or as a list says
     * @param  list<string>  $pages  paths of the pictures, in order; also of the list
     * @param  string  $file  where it lies for the moment; whoever takes it removes it
     * @param  string  $reason  why it could not be; empty: it could
     * @param  string  $told  a name by which the file is told what it is
     */
    public function __construct(public string $name, public array $pages, public string $file, public string $reason = '', public string $told = 'document.'.Bundle::ENDING)
    {
    }
}
