<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Quality;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\InvalidValue;
use Skeno\Core\Quality\ClassLooks;
use Skeno\Core\Quality\FarthestFirst;
use Skeno\Core\Quality\KnownLooks;
use Skeno\Core\Quality\Looks;

final class LooksTest extends TestCase
{
    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Xoshiro256StarStar(hash('sha256', 'looks', true)));
    }

    /** A swatch by a rule: R, G, B from 0 to 255 for each place. @param  callable(int, int): array{int, int, int}  $pixel */
    private static function swatch(callable $pixel): Swatch
    {
        $bytes = [];
        for ($y = 0; $y < Swatch::SIDE; $y++) {
            for ($x = 0; $x < Swatch::SIDE; $x++) {
                array_push($bytes, ...$pixel($x, $y));
            }
        }

        return Swatch::of($bytes);
    }

    private function fruit(int $red, int $green, int $blue): Looks
    {
        $noise = fn (int $v): int => max(0, min(255, $v + $this->random->getInt(-18, 18)));
        $turn = $this->random->getInt(0, 6);

        return Looks::ofObject(self::swatch(fn (int $x, int $y): array => hypot($x - 11.5, $y - 11.5) < 9 ? [$noise($red + $turn), $noise($green), $noise($blue)] : [$noise(70), $noise(90), $noise(60)]), Box::of(0, 0, 60 + $this->random->getInt(-8, 8), 60 + $this->random->getInt(-8, 8)), 1280, 960);
    }

    public function test_gray_has_no_hue_and_no_edges(): void
    {
        $looks = Looks::ofPicture(self::swatch(static fn (): array => [128, 128, 128]))->values;
        self::assertCount(Looks::DIMENSIONS, $looks);
        // brightness in the middle and around it is 128/255, both colours and all spreads 0
        self::assertEqualsWithDelta([128 / 255, 128 / 255, 0, 0, 0, 0, 0, 0, 0], array_slice($looks, 0, 9), 1e-9);
        self::assertEqualsWithDelta(array_fill(0, 8 + 36, 0.0), array_slice($looks, 9, 8 + 36), 1e-9);
    }

    public function test_upright_stripes_have_gradients_across_them_only(): void
    {
        $looks = Looks::ofPicture(self::swatch(static fn (int $x): array => $x % 4 < 2 ? [0, 0, 0] : [255, 255, 255]))->values;
        $gradients = array_chunk(array_slice($looks, 17, 36), 4);
        foreach ($gradients as $cell) {
            self::assertGreaterThan(0.2, $cell[0], 'across');
            self::assertEqualsWithDelta([0.0, 0.0, 0.0], array_slice($cell, 1), 1e-9);
        }
    }

    public function test_looks_do_not_depend_on_which_side_is_bright(): void
    {
        $edge = static fn (bool $flip): array => array_slice(Looks::ofPicture(self::swatch(static fn (int $x): array => ($x < 12) === $flip ? [0, 0, 0] : [255, 255, 255]))->values, 17, 36);
        self::assertEqualsWithDelta($edge(true), $edge(false), 1e-9);
    }

    public function test_packing_keeps_them(): void
    {
        $looks = $this->fruit(200, 40, 30);
        self::assertEqualsWithDelta($looks->values, Looks::unpack($looks->pack())->values, 1e-6);
        $this->expectException(InvalidValue::class);
        Looks::unpack('too short');
    }

    /** The distance by its definition, (x − µ)ᵀ Σ⁻¹ (x − µ), solved by elimination instead of by the factor. */
    public function test_distances_are_those_of_the_covariance(): void
    {
        $objects = array_map(fn (): Looks => $this->fruit(200, 40, 30), range(1, 40));
        $class = ClassLooks::learn($objects);
        self::assertSame(38, $class->count, 'a twentieth is left out');
        $d = Looks::DIMENSIONS;
        $kept = $objects;
        // the two left out are those farthest by the first fit; which they are shows in the mean
        $means = [];
        foreach ($objects as $a => $_) {
            foreach (range($a + 1, 39) as $b) {
                if ($b > $a && $b < 40) {
                    $means["{$a},{$b}"] = abs($class->mean[0] - (array_sum(array_map(static fn (Looks $l): float => $l->values[0], $objects)) - $objects[$a]->values[0] - $objects[$b]->values[0]) / 38)
                        + abs($class->mean[5] - (array_sum(array_map(static fn (Looks $l): float => $l->values[5], $objects)) - $objects[$a]->values[5] - $objects[$b]->values[5]) / 38);
                }
            }
        }
        asort($means);
        [$a, $b] = array_map(intval(...), explode(',', (string) array_key_first($means)));
        unset($kept[$a], $kept[$b]);
        $kept = array_values($kept);
        $matrix = [];
        for ($i = 0; $i < $d; $i++) {
            for ($j = 0; $j < $d; $j++) {
                $sum = 0.0;
                foreach ($kept as $object) {
                    $sum += ($object->values[$i] - $class->mean[$i]) * ($object->values[$j] - $class->mean[$j]);
                }
                $matrix[$i][$j] = $sum / 38 * ($i === $j ? 1 : 1 - $d / ($d + 38)) + ($i === $j ? 4e-4 : 0);
            }
        }
        $x = $this->fruit(90, 120, 30);
        $off = array_map(static fn (float $value, float $mean): float => $value - $mean, $x->values, $class->mean);
        $solved = self::solve($matrix, $off);
        $expected = array_sum(array_map(static fn (float $p, float $q): float => $p * $q, $off, $solved));
        self::assertEqualsWithDelta($expected, $class->squared($x), 1e-6 * $expected);
        $again = ClassLooks::unpack($class->pack());
        self::assertEqualsWithDelta($class->oddness($x), $again->oddness($x), 1e-3 * $class->oddness($x));
        self::assertSame($class->count, $again->count);
    }

    /**
     * @param  array<int, array<int, float>>  $m
     * @param  list<float>  $v
     * @return list<float>
     */
    private static function solve(array $m, array $v): array
    {
        $n = count($v);
        for ($i = 0; $i < $n; $i++) {
            for ($r = $i + 1; $r < $n; $r++) {
                $f = $m[$r][$i] / $m[$i][$i];
                for ($c = $i; $c < $n; $c++) {
                    $m[$r][$c] -= $f * $m[$i][$c];
                }
                $v[$r] -= $f * $v[$i];
            }
        }
        for ($i = $n - 1; $i >= 0; $i--) {
            for ($c = $i + 1; $c < $n; $c++) {
                $v[$i] -= $m[$i][$c] * $v[$c];
            }
            $v[$i] /= $m[$i][$i];
        }

        return array_values($v);
    }

    public function test_a_few_wrong_ones_do_not_make_themselves_at_home(): void
    {
        $apples = array_map(fn (): Looks => $this->fruit(200, 40, 30), range(1, 120));
        $pears = array_map(fn (): Looks => $this->fruit(160, 190, 60), range(1, 4));
        $class = ClassLooks::learn([...$apples, ...$pears]);
        $odd = array_map($class->oddness(...), [...$apples, ...$pears]);
        arsort($odd);
        $first = array_slice(array_keys($odd), 0, 4);
        sort($first);
        self::assertSame([120, 121, 122, 123], $first);
        self::assertEqualsWithDelta(1.0, $odd[array_keys($odd)[62]], 0.15, 'the middle one is as far as usual');
    }

    public function test_the_guard_speaks_only_when_another_class_fits_much_better(): void
    {
        $learn = fn (int $red, int $green, int $blue): ClassLooks => ClassLooks::learn(array_map(fn (): Looks => $this->fruit($red, $green, $blue), range(1, 60)));
        $guard = new KnownLooks(['apple' => $learn(200, 40, 30), 'pear' => $learn(160, 190, 60)]);
        for ($i = 0; $i < 20; $i++) {
            self::assertSame('pear', $guard->doubt('apple', $this->fruit(160, 190, 60))['class'] ?? null);
            self::assertNull($guard->doubt('apple', $this->fruit(200, 40, 30)));
            self::assertNull($guard->doubt('plum', $this->fruit(160, 190, 60)), 'a class without examples is not guarded');
        }
        // oddness: the distance, and the odds on top where the other class is likelier
        $apple = $learn(200, 40, 30);
        $alone = new KnownLooks(['apple' => $apple]);
        $slip = $this->fruit(160, 190, 60);
        self::assertSame($apple->oddness($slip), $alone->oddness('apple', $slip), 'one class: nothing to be confused with');
        self::assertNull($alone->doubt('apple', $slip));
        self::assertNull($guard->oddness('plum', $slip));
        $pear = $learn(160, 190, 60);
        $both = new KnownLooks(['apple' => $apple, 'pear' => $pear]);
        $odds = ($apple->unlikelihood($slip) - $pear->unlikelihood($slip)) / 2;
        self::assertEqualsWithDelta($apple->oddness($slip) + $odds, $both->oddness('apple', $slip), 1e-9);
        self::assertEqualsWithDelta(round($odds, 1), $both->doubt('apple', $slip)['odds'] ?? null, 1e-9);
        self::assertSame($pear->oddness($slip), $both->oddness('pear', $slip));
    }

    public function test_a_class_with_few_examples_is_not_learned(): void
    {
        $this->expectException(InvalidValue::class);
        ClassLooks::learn(array_map(fn (): Looks => $this->fruit(200, 40, 30), range(1, ClassLooks::LEAST - 1)));
    }

    /** @return array<string, array{int, int, int}> */
    public static function pools(): array
    {
        return ['nothing there' => [30, 0, 5], 'some there' => [25, 4, 6], 'more wanted than there are' => [8, 2, 20], 'one' => [12, 0, 1]];
    }

    #[DataProvider('pools')]
    public function test_each_draw_is_the_farthest_from_all_before(int $size, int $labelled, int $count): void
    {
        $pool = [];
        foreach (range(1, $size) as $id) {
            $pool[$id * 3] = $this->fruit($this->random->getInt(0, 255), $this->random->getInt(0, 255), $this->random->getInt(0, 255));
        }
        $there = $labelled === 0 ? [] : array_map(fn (): Looks => $this->fruit(200, 40, 30), range(1, $labelled));
        $draw = FarthestFirst::over($pool, $there);
        $drawn = $draw->draw($count);
        self::assertCount(min($count, $size), array_unique($drawn));
        // by brute force, with the distances of the definition
        $spread = [];
        for ($i = 0; $i < Looks::DIMENSIONS; $i++) {
            $values = array_map(static fn (Looks $l): float => $l->values[$i], $pool);
            $mean = array_sum($values) / $size;
            $spread[] = sqrt(array_sum(array_map(static fn (float $v): float => ($v - $mean) ** 2, $values)) / $size);
        }
        $distance = static function (Looks $a, Looks $b) use ($spread): float {
            $sum = 0.0;
            foreach ($spread as $i => $s) {
                $sum += $s > 1e-6 ? (($a->values[$i] - $b->values[$i]) / $s) ** 2 / count($spread) : 0;
            }

            return sqrt($sum);
        };
        $near = static fn (int $id, array $others): float => min(array_map(static fn (Looks $other): float => $distance($pool[$id], $other), $others));
        foreach ($drawn as $i => $id) {
            $before = [...$there, ...array_map(static fn (int $d): Looks => $pool[$d], array_slice($drawn, 0, $i))];
            if ($before === []) {
                continue;
            }
            foreach (array_diff(array_keys($pool), array_slice($drawn, 0, $i)) as $other) {
                self::assertLessThanOrEqual($near($id, $before) + 1e-9, $near($other, $before));
            }
        }
        $cover = $draw->cover($drawn);
        $all = array_map(static fn (int $id): float => in_array($id, $drawn, true) ? 0.0 : $near($id, [...$there, ...array_map(static fn (int $d): Looks => $pool[$d], $drawn)]), array_keys($pool));
        self::assertEqualsWithDelta(max($all), $cover['most'], 1e-6);
        self::assertEqualsWithDelta(array_sum($all) / count($all), $cover['mean'], 1e-6);
    }

    public function test_the_same_looks_are_all_drawn_once(): void
    {
        $one = $this->fruit(200, 40, 30);
        self::assertEqualsCanonicalizing([1, 2, 3], FarthestFirst::over([1 => $one, 2 => $one, 3 => $one])->draw(3));
    }
}
