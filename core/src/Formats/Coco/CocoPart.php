<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use RuntimeException;
use Skeno\Core\Formats\Folder;

/** One file being written: its images go straight in, its annotations wait beside it. */
final class CocoPart
{
    public int $images = 0;

    public int $annotations = 0;

    /** @var array<string, int> most points a mark has, by class key */
    public array $points = [];

    /** the clip whose tracks have the numbers below */
    private string $clip = '';

    /** @var array<string, int> by mark */
    private array $tracks = [];

    private int $lastTrack = 0;

    /**
     * @param  resource  $main
     * @param  resource  $waiting
     */
    private function __construct(public $main, public $waiting, private readonly string $waitingFile)
    {
    }

    /** Begins `annotations/<part>.json`, up to its first image. */
    public static function open(Folder $folder, string $part, string $info): self
    {
        $opened = new self($folder->create("annotations/{$part}.json"), $folder->create("annotations/{$part}.part"), $folder->file("annotations/{$part}.part"));
        $opened->put($opened->main, $info."\n\"images\":[");

        return $opened;
    }

    /** The number of a track, the same on all frames of its clip; no two clips have one in common. */
    public function track(string $clip, string $mark): int
    {
        if ($this->clip !== $clip) {
            [$this->clip, $this->tracks] = [$clip, []];
        }

        return $this->tracks[$mark] ??= ++$this->lastTrack;
    }

    /** @param  resource  $stream */
    public function put($stream, string $text): void
    {
        if ($text !== '' && @fwrite($stream, $text) !== strlen($text)) {
            throw new RuntimeException('the annotations could not be written: is the disk full?');
        }
    }

    /** @param  list<string>  $categories  as JSON */
    public function close(array $categories): void
    {
        $this->put($this->main, "],\n\"annotations\":[");
        $this->appendWaiting();
        $this->put($this->main, "],\n\"categories\":[".($categories === [] ? '' : "\n".implode(",\n", $categories))."]}\n");
        fclose($this->main);
    }

    private function appendWaiting(): void
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
