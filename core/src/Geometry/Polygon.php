<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * Outlines of a region: `{rings: [[x, y, x, y, …], …]}`, parts and holes alike, since a point belongs to the region when it lies inside
 * an odd number of rings. No edge crosses another; touching is allowed (a hole may touch its rim, a seam may be walked twice).
 */
final readonly class Polygon implements Region
{
    /** @param  non-empty-list<list<float>>  $rings */
    private function __construct(private array $rings)
    {
    }

    /**
     * @param  list<mixed>  $rings
     * @param  bool  $known  it has passed this check before (it comes from our own storage), so crossings are not looked for again
     *
     * @throws InvalidValue
     */
    public static function of(array $rings, string $path = 'rings', bool $known = false): self
    {
        if ($rings === []) {
            throw InvalidValue::at($path, $rings, 'at least one ring');
        }
        $checked = [];
        $points = 0;
        foreach ($rings as $i => $ring) {
            $checked[] = Coordinates::check($ring, "{$path}[{$i}]", 3);
            $points += intdiv(count($checked[$i]), 2);
            if ($points > Coordinates::MOST) {
                throw InvalidValue::at($path, "more than {$points} points", 'at most '.Coordinates::MOST);
            }
        }
        if (! $known && ($at = Crossing::first($checked)) !== null) {
            throw InvalidValue::at($path, sprintf('an outline that crosses itself near %.1f, %.1f', $at[0], $at[1]), 'outlines whose edges do not cross');
        }

        return new self($checked);
    }

    public static function fromFields(Fields $fields, string $path = 'geometry', bool $known = false): self
    {
        return self::of($fields->list('rings'), "{$path}.rings", $known);
    }

    public function rings(): array
    {
        return $this->rings;
    }

    public function bounds(): Box
    {
        return Coordinates::bounds(array_merge(...$this->rings));
    }

    /** Even-odd: a ring inside an odd number of others is a hole. Rings do not cross, so any point of a ring off the others decides. */
    public function area(): float
    {
        $area = 0.0;
        foreach ($this->depths() as $i => $depth) {
            $area += ($depth % 2 === 0 ? 1 : -1) * abs(Coordinates::signedArea($this->rings[$i]));
        }

        return $area;
    }

    /** Whether the rings are only parts side by side: none lies inside another. */
    public function hasHoles(): bool
    {
        return max($this->depths()) > 0;
    }

    /** The same without rings that lie inside others. */
    public function withoutNested(): self
    {
        $depths = $this->depths();
        /** @var non-empty-list<list<float>> $outer some ring lies inside no other */
        $outer = array_values(array_filter($this->rings, static fn (int $i): bool => $depths[$i] === 0, ARRAY_FILTER_USE_KEY));

        return new self($outer);
    }

    public function isEmpty(): bool
    {
        return $this->area() <= 0.0;
    }

    public function points(): int
    {
        return intdiv(array_sum(array_map(count(...), $this->rings)), 2);
    }

    /** @return array{rings: list<list<float>>} */
    public function toArray(): array
    {
        return ['rings' => $this->rings];
    }

    /**
     * How many other rings each ring lies inside. Only rings whose extent holds its extent are looked at.
     *
     * @return non-empty-list<int>
     */
    private function depths(): array
    {
        $count = count($this->rings);
        if ($count === 1) {
            return [0];
        }
        $left = $top = $right = $bottom = [];
        foreach ($this->rings as $i => $ring) {
            $box = Coordinates::bounds($ring);
            [$left[$i], $top[$i], $right[$i], $bottom[$i]] = [$box->x, $box->y, $box->right(), $box->bottom()];
        }
        $depths = [];
        foreach ($this->rings as $i => $ring) {
            $depth = 0;
            for ($j = 0; $j < $count; $j++) {
                if ($i !== $j && $left[$j] <= $left[$i] && $right[$j] >= $right[$i] && $top[$j] <= $top[$i] && $bottom[$j] >= $bottom[$i] && $this->ringInside($ring, $this->rings[$j])) {
                    $depth++;
                }
            }
            $depths[] = $depth;
        }

        return $depths;
    }

    /**
     * Rings may share points, so the middles of edges vote; a middle on the other's rim is no vote.
     *
     * @param  list<float>  $inner
     * @param  list<float>  $outer
     */
    private function ringInside(array $inner, array $outer): bool
    {
        $n = count($inner);
        for ($i = 0; $i < $n; $i += 2) {
            $j = $i + 2 < $n ? $i + 2 : 0;
            $side = self::side(($inner[$i] + $inner[$j]) / 2, ($inner[$i + 1] + $inner[$j + 1]) / 2, $outer);
            if ($side !== 0) {
                return $side > 0;
            }
        }

        // every edge lies on the other's rim: the same outline twice, which is empty together
        return true;
    }

    /**
     * @param  list<float>  $ring
     * @return int 1 inside, -1 outside, 0 on the rim (within 1e-9 px)
     */
    private static function side(float $x, float $y, array $ring): int
    {
        $inside = false;
        $n = count($ring);
        for ($i = 0; $i < $n; $i += 2) {
            $j = $i + 2 < $n ? $i + 2 : 0;
            [$ax, $ay, $bx, $by] = [$ring[$i], $ring[$i + 1], $ring[$j], $ring[$j + 1]];
            $cross = ($bx - $ax) * ($y - $ay) - ($by - $ay) * ($x - $ax);
            if (abs($cross) <= 1e-9 * max(1.0, hypot($bx - $ax, $by - $ay)) && $x >= min($ax, $bx) - 1e-9 && $x <= max($ax, $bx) + 1e-9 && $y >= min($ay, $by) - 1e-9 && $y <= max($ay, $by) + 1e-9) {
                return 0;
            }
            if (($ay > $y) !== ($by > $y) && $x < $ax + ($y - $ay) / ($by - $ay) * ($bx - $ax)) {
                $inside = ! $inside;
            }
        }

        return $inside ? 1 : -1;
    }
}
