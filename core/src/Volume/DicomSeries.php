<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\InvalidValue;

/** The slices of one DICOM series, in their order in space. */
final readonly class DicomSeries implements Source
{
    /** Two slices nearer than this share of a step lie at one place. */
    private const SAME = 0.02;

    /** How much farther two slices may lie apart than the others. */
    private const UNEVEN = 0.25;

    /** @param  non-empty-list<DicomSlice>  $slices  in order */
    private function __construct(private array $slices, private Grid $grid)
    {
    }

    /**
     * Parts slices by what makes them one volume: their series, size and direction.
     *
     * @param  iterable<DicomSlice>  $slices
     * @return list<non-empty-list<DicomSlice>> in an order that does not depend on that of the files
     */
    public static function parted(iterable $slices): array
    {
        $parts = [];
        foreach ($slices as $slice) {
            $way = implode(' ', array_map(static fn (float $n): string => sprintf('%.3f', $n), [...$slice->orientation, ...$slice->spacing]));
            $parts["{$slice->series} {$slice->columns} {$slice->rows} {$slice->allocated} ".(int) $slice->isSigned." {$way}"][] = $slice;
        }
        ksort($parts, SORT_STRING);

        return array_values($parts);
    }

    /**
     * @param  non-empty-list<DicomSlice>  $slices  of one part
     *
     * @throws RefusedVolume when two lie at one place, or one is missing
     */
    public static function of(array $slices, VolumeLimits $limits): self
    {
        usort($slices, static fn (DicomSlice $a, DicomSlice $b): int => $a->depth() <=> $b->depth() ?: $a->number <=> $b->number);
        $count = count($slices);
        [$first, $last] = [$slices[0], $slices[$count - 1]];
        $limits->mustHold([$first->columns, $first->rows, $count]);
        $gaps = [];
        for ($k = 1; $k < $count; $k++) {
            $gaps[] = $slices[$k]->depth() - $slices[$k - 1]->depth();
        }
        sort($gaps);
        $usual = $gaps === [] ? ($first->thickness > 0 ? $first->thickness : 1.0) : $gaps[intdiv(count($gaps), 2)];
        for ($k = 1; $k < $count; $k++) {
            $gap = $slices[$k]->depth() - $slices[$k - 1]->depth();
            if ($gap <= self::SAME * max($usual, 1e-6)) {
                throw RefusedVolume::because('two of its slices lie at one place ('.round($slices[$k]->depth(), 2).' mm): is it several series in one, or one over time?');
            }
            if (abs($gap - $usual) > self::UNEVEN * $usual) {
                throw RefusedVolume::because('slices '.$k.' and '.($k + 1).' are '.round($gap, 2).' mm apart, the others '.round($usual, 2).': some are missing');
            }
        }
        $step = [];
        foreach ([0, 1, 2] as $axis) {
            $step[] = $count > 1 ? ($last->position[$axis] - $first->position[$axis]) / ($count - 1) : $first->normal()[$axis] * $usual;
        }
        [$a, $b, $c, $d, $e, $f] = $first->orientation;
        [$across, $down] = $first->spacing;
        [$x, $y, $z] = $first->position;
        try {
            // DICOM goes to the left, to the back and up, NIfTI to the right, to the front and up
            $grid = Grid::of([$first->columns, $first->rows, $count], [-$a * $across, -$d * $down, -$step[0], -$x, -$b * $across, -$e * $down, -$step[1], -$y, $c * $across, $f * $down, $step[2], $z], true);
        } catch (InvalidValue $e) {
            throw RefusedVolume::because("where it lies can't be told: {$e->getMessage()}");
        }

        return new self($slices, $grid);
    }

    public function grid(): Grid
    {
        return $this->grid;
    }

    public function scalar(): Scalar
    {
        return match (true) {
            ! $this->isEven() => Scalar::Float32,
            $this->slices[0]->isSigned => Scalar::Int16,
            $this->slices[0]->allocated === 8 => Scalar::UInt8,
            default => Scalar::UInt16,
        };
    }

    public function scaling(): array
    {
        return $this->isEven() ? [$this->slices[0]->slope, $this->slices[0]->intercept] : [1.0, 0.0];
    }

    public function windows(): array
    {
        $window = $this->slices[intdiv(count($this->slices), 2)]->window;

        return $window === null ? [] : [$window];
    }

    public function slices(): iterable
    {
        $isEven = $this->isEven();
        foreach ($this->slices as $k => $slice) {
            $pixels = $slice->pixels();
            yield $k => $isEven ? $pixels : array_map(static fn (int $pixel): float => $pixel * $slice->slope + $slice->intercept, $pixels);
        }
    }

    /** Whether all slices are scaled alike. */
    private function isEven(): bool
    {
        foreach ($this->slices as $slice) {
            if ($slice->slope !== $this->slices[0]->slope || $slice->intercept !== $this->slices[0]->intercept) {
                return false;
            }
        }

        return true;
    }
}
