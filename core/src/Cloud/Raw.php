<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use RuntimeException;

/** A frame that was read once, on its way to what the bench needs: its points that can be seen, as records in a file. */
final readonly class Raw
{
    /**
     * @param  int  $count  points of its file, $seen of which lie at a place that is a number
     * @param  array{float, float, float}  $least
     * @param  array{float, float, float}  $most
     * @param  ?array{float, float}  $intensity  the weakest and the strongest; null: it has none
     */
    public function __construct(private string $file, private int $record, public int $count, public int $seen, public array $least, public array $most, public ?array $intensity, public bool $hasClass, public bool $hasColour)
    {
    }

    /** @return iterable<array{x: list<float>, y: list<float>, z: list<float>, intensity: list<float>, class: list<int>, colour: list<int>}> */
    public function points(): iterable
    {
        $in = @fopen($this->file, 'rb') ?: throw new RuntimeException('what was read of this cloud is gone');
        try {
            for ($read = 0; $read < $this->seen; $read += $count) {
                $count = min(Points::SOME, $this->seen - $read);
                $bytes = (string) stream_get_contents($in, $count * $this->record);
                if (strlen($bytes) !== $count * $this->record) {
                    throw new RuntimeException('what was read of this cloud is broken: is the disk full?');
                }
                /** @var array<int, float> $floats */
                $floats = unpack('e*', $bytes);
                /** @var array<int, int> $words */
                $words = unpack('V*', $bytes);
                $some = ['x' => [], 'y' => [], 'z' => [], 'intensity' => [], 'class' => [], 'colour' => []];
                for ($n = 0; $n < $count; $n++) {
                    $some['x'][] = $floats[$n * 5 + 1];
                    $some['y'][] = $floats[$n * 5 + 2];
                    $some['z'][] = $floats[$n * 5 + 3];
                    $some['intensity'][] = $floats[$n * 5 + 4];
                    $some['class'][] = $words[$n * 10 + 9];
                    $some['colour'][] = $words[$n * 10 + 10];
                }
                yield $some;
            }
        } finally {
            fclose($in);
        }
    }
}
