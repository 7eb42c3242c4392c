<?php

declare(strict_types=1);

namespace App\Intake;

/** Pictures that were put together as a document, or why they could not be. */
final readonly class Bundled
{
    /**
     * @param  string  $name  of the document: its folder, or as a list says
     * @param  list<string>  $pages  paths of the pictures, in order; also of the list
     * @param  string  $file  where it lies for the moment; whoever takes it removes it
     * @param  string  $reason  why it could not be; empty: it could
     */
    public function __construct(public string $name, public array $pages, public string $file, public string $reason = '')
    {
    }
}
