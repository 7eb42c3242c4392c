<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use RuntimeException;
use Skeno\Core\Fields;

/** What is known of a cloud that was made ready for the bench. */
final readonly class Made
{
    /**
     * @param  list<int>  $points  of each frame, those that can be seen
     * @param  array{float, float, float}  $least  in the cloud's axes
     * @param  array{float, float, float}  $most
     */
    public function __construct(public array $points, public array $least, public array $most)
    {
    }

    /** @param  string  $folder  that `Making` has filled */
    public static function read(string $folder): self
    {
        $index = json_decode((string) @file_get_contents("{$folder}/index.json"), true);
        if (! is_array($index)) {
            throw new RuntimeException('what was made of this cloud is gone');
        }
        $in = Fields::of($index);
        $points = [];
        foreach ($in->list('frames') as $frame) {
            $points[] = Fields::of($frame)->int('points', 0);
        }

        return new self($points, self::three($in, 'least'), self::three($in, 'most'));
    }

    /** @return array{float, float, float} */
    public static function three(Fields $in, string $key): array
    {
        $numbers = array_map(static fn (mixed $number): float => is_int($number) || is_float($number) ? (float) $number : throw new RuntimeException('what was made of this cloud is broken'), $in->list($key));

        return count($numbers) === 3 ? [$numbers[0], $numbers[1], $numbers[2]] : throw new RuntimeException('what was made of this cloud is broken');
    }
}
