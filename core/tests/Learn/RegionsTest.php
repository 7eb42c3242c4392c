<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Learn;

use PHPUnit\Framework\TestCase;
use RuntimeException;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Inference\Found;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Example;
use Skeno\Core\Learn\Regions;
use Skeno\Core\Learn\Spots;
use Skeno\Core\Trial\Figures;
use Skeno\Core\Trial\Matched;

final class RegionsTest extends TestCase
{
    /** @param  'box'|'ellipse'  $as @return list<Example> */
    private static function examples(int $from, int $count, string $as = 'box'): array
    {
        return array_map(static fn (int $seed): Example => Painted::discs($seed, $as), range($from, $from + $count - 1));
    }

    public function test_it_finds_what_it_has_never_seen_and_leaves_the_rest(): void
    {
        $told = [];
        $model = Regions::learn(self::examples(1, 8), ['disc'], 1, static function (float $part) use (&$told): void {
            $told[] = $part;
        });
        self::assertSame(1.0, end($told));
        $sorted = $told;
        sort($sorted);
        self::assertSame($sorted, $told);
        $items = [];
        foreach (self::examples(100, 6) as $example) {
            $found = $model->find($example->part, $example->width, $example->height);
            $items[] = Matched::of(array_map(static fn (Found $one): array => ['class' => $one->class, 'confidence' => $one->confidence, 'geometry' => $one->shapes[0]], $found), $example->things, [], $example->width, $example->height);
        }
        $figures = Figures::ofClass($items, 'disc', 0.5);
        self::assertGreaterThan(15, $figures['there']);
        // brown discs of the same size lie about, and every third one touches another
        self::assertGreaterThan(0.9, $figures['f1']?->value, (string) json_encode($figures));
        self::assertGreaterThan(0.75, $figures['alike']?->value);
        // the same once it was put away
        $again = Regions::unpack($model->pack());
        $example = Painted::discs(200);
        self::assertEqualsWithDelta(self::flat($model->find($example->part, 320, 240)), self::flat($again->find($example->part, 320, 240)), 1e-3);
    }

    public function test_what_is_drawn_as_ellipses_is_suggested_so(): void
    {
        $model = Regions::learn(self::examples(1, 5, 'ellipse'), ['disc']);
        $example = Painted::discs(300, 'ellipse');
        $found = array_values(array_filter($model->find($example->part, 320, 240), static fn (Found $one): bool => $one->confidence > 0.5));
        self::assertNotSame([], $found);
        foreach ($found as $one) {
            self::assertInstanceOf(Ellipse::class, $one->shapes[0]);
            self::assertEqualsWithDelta(16, $one->shapes[0]->rx, 7);
        }
    }

    public function test_too_little_is_refused_and_what_stops_it_ends_it(): void
    {
        try {
            Regions::learn(self::examples(1, 3), ['disc']);
            self::fail('three pictures are too few');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('at least 4 accepted items', $e->getMessage());
        }
        try {
            Regions::learn(self::examples(1, 6), ['disc', 'pear']);
            self::fail('nothing is a pear');
        } catch (InvalidValue $e) {
            self::assertStringContainsString('pear', $e->getMessage());
        }
        $this->expectException(RuntimeException::class);
        Regions::learn(self::examples(1, 6), ['disc'], 1, static fn () => throw new RuntimeException('stopped'));
    }

    public function test_it_is_the_same_with_and_without_the_jit(): void
    {
        $run = static fn (string $jit): string => (string) shell_exec(escapeshellarg(PHP_BINARY)." -d opcache.enable_cli=1 -d opcache.jit={$jit} -d opcache.jit_buffer_size=32M -d opcache.file_update_protection=0 ".escapeshellarg(__DIR__.'/jit.php'));
        $plain = $run('disable');
        self::assertStringStartsWith('[["', $plain);
        self::assertSame($plain, $run('tracing'));
    }

    public function test_things_that_touch_are_parted_where_a_top_stands_high_enough(): void
    {
        // two hills of 1 and 0.9 with a saddle of 0.6 between them
        $deep = [0.0, 0.7, 1.0, 0.8, 0.6, 0.8, 0.9, 0.7, 0.0];
        $inside = array_fill(0, 9, 0.9);
        self::assertCount(2, Spots::of($inside, $deep, 9, 0.5, 0.25));
        self::assertCount(1, Spots::of($inside, $deep, 9, 0.5, 0.35));
        // nothing is inside
        self::assertSame([], Spots::of(array_fill(0, 9, 0.4), $deep, 9, 0.5, 0.1));
        // every pixel is of one thing, and rows do not run over into each other
        $two = Spots::of([0.9, 0.0, 0.0, 0.0, 0.0, 0.9], array_fill(0, 6, 0.5), 3, 0.5, 0.1);
        self::assertSame([[0], [5]], $two);
        self::assertCount(2, Spots::of([0.0, 0.0, 0.9, 0.9, 0.0, 0.0], array_fill(0, 6, 0.5), 3, 0.5, 0.1));
    }

    /** @param  list<Found>  $found @return list<list<float>> */
    private static function flat(array $found): array
    {
        return array_map(static fn (Found $one): array => [$one->confidence, $one->shapes[0]->bounds()->x, $one->shapes[0]->bounds()->width], $found);
    }
}
