<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Tracks;

use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

/** What a bench shows between two keys at once, without asking, is what the core works out: both sides pass `core/tests/vectors/tracks.json`. */
final class VectorsTest extends TestCase
{
    private const FILE = __DIR__.'/../vectors/tracks.json';

    public function test_the_core_gives_what_the_vectors_say(): void
    {
        $cases = json_decode((string) file_get_contents(self::FILE), true);
        self::assertIsArray($cases);
        self::assertGreaterThan(30, count($cases));
        foreach ($cases as $i => $case) {
            self::assertEqualsWithDelta($case['shapes'], self::shapes($case), 1e-6, "case {$i}: {$case['kind']}");
        }
    }

    /** Writes them anew: `php -r 'require "vendor/autoload.php"; Skeno\Core\Tests\Tracks\VectorsTest::write();'` */
    public static function write(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(12));
        $n = static fn (int $most): float => $random->getInt(0, 10 * $most) / 10;
        $box = static fn (): array => ['x' => $n(90), 'y' => $n(60), 'width' => $n(40), 'height' => $n(30)];
        $makers = [
            'box' => $box,
            'turned_box' => static fn (): array => ['cx' => $n(90), 'cy' => $n(60), 'width' => $n(40), 'height' => $n(30), 'angle' => $n(359)],
            'ellipse' => static fn (): array => ['cx' => $n(90), 'cy' => $n(60), 'rx' => $n(40), 'ry' => $n(30), 'angle' => $n(179)],
            'points' => static fn (): array => ['points' => array_map(static fn (): float => $n(90), range(1, 2 * $random->getInt(1, 4)))],
            'skeleton' => static fn (): array => ['nodes' => array_map(static fn (): array => ['x' => $n(90), 'y' => $n(60), 'state' => $random->getInt(0, 1) === 0 ? 'visible' : 'hidden'], array_flip(array_slice(['head', 'tail', 'left', 'right'], 0, $random->getInt(1, 4))))],
            'cuboid_2d' => static fn (): array => ['front' => $box(), 'back' => $box()],
            'cuboid' => static fn (): array => ['center' => [$n(90), $n(60), $n(4)], 'size' => [$n(9), $n(4), $n(3)], 'heading' => $n(358) - 179.0],
        ];
        $cases = [];
        foreach ($makers as $kind => $make) {
            for ($i = 0; $i < 6; $i++) {
                $there = $i % 2 === 0 ? [[2, 20]] : [[0, 6], [9, 12], [14, 18]];
                $keys = [];
                foreach (range(0, 20) as $place) {
                    if ($random->getInt(0, 3) === 0) {
                        $keys[] = ['place' => $place, 'geometry' => $make(), 'hidden' => $random->getInt(0, 3) === 0];
                    }
                }
                $case = ['kind' => $kind, 'stretches' => $there, 'keys' => $keys];
                $cases[] = $case + ['shapes' => self::shapes($case)];
            }
        }
        array_walk_recursive($cases, static function (mixed &$value): void {
            $value = is_float($value) ? round($value, 7) : $value;
        });
        file_put_contents(self::FILE, "[\n".implode(",\n", array_map(static fn (array $case): string => (string) json_encode($case), $cases))."\n]\n");
    }

    /**
     * @param  array<string, mixed>  $case
     * @return list<mixed> for each place from 0 to 21: null where it is not there, else its geometry and whether it is hidden
     */
    private static function shapes(array $case): array
    {
        $there = Places::fromArray($case['stretches']);
        $keys = [];
        foreach ($case['keys'] as $key) {
            if ($there->has($key['place'])) {
                $keys[] = Key::fromArray($key, Shape::from($case['kind']));
            }
        }
        $track = Track::of($keys, $there);

        return array_map(static function (int $place) use ($track): ?array {
            $shape = $track->shape($place);

            return $shape instanceof Geometry ? ['geometry' => $shape->toArray(), 'hidden' => $track->isHidden($place)] : null;
        }, range(0, 21));
    }
}
