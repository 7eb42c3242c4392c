<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Texts;

use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;

/** Reads a file that holds texts, with labels where it has them: texts and labels in one. */
interface TextsReader
{
    /**
     * @return iterable<ComingText|Skipped|Notice> one after the other: memory does not grow with the file
     *
     * @throws UnreadableLabels when the file as a whole is not of this format
     */
    public function texts(string $file): iterable;
}
