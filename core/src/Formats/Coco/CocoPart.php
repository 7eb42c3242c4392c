<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use RuntimeException;

/** One file being written: its images go straight in, its annotations wait beside it. */
final class CocoPart
{
    public int $images = 0;

    public int $annotations = 0;

    /** @var array<string, int> most points a mark has, by class key */
    public array $points = [];

    /**
     * @param  resource  $main
     * @param  resource  $waiting
     */
    public function __construct(public $main, public $waiting, private readonly string $waitingFile)
    {
    }

    /** @param  resource  $stream */
    public function put($stream, string $text): void
    {
        if ($text !== '' && @fwrite($stream, $text) !== strlen($text)) {
            throw new RuntimeException('the annotations could not be written: is the disk full?');
        }
    }

    public function appendWaiting(): void
    {
        fclose($this->waiting);
        $from = fopen($this->waitingFile, 'rb');
        if ($from === false || stream_copy_to_stream($from, $this->main) !== filesize($this->waitingFile)) {
            throw new RuntimeException('the annotations could not be written: is the disk full?');
        }
        fclose($from);
        unlink($this->waitingFile);
    }
}
