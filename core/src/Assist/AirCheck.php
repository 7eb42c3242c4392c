<?php

declare(strict_types=1);

namespace Skeno\Core\Assist;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Mark;

/**
 * Holds boxes against how tight their class wants them. One side alone is often a shadow or a leaf, so only a box that leaves
 * too much air on two sides or more is doubted; that it cuts its object is too uncertain to say of a natural picture.
 */
final readonly class AirCheck
{
    private const SIDES = 2;

    public function __construct(private Codebook $codebook)
    {
    }

    /** Whether any of the marks has a rule to be held against; without one the picture need not be read. */
    public function concerns(Mark $mark): bool
    {
        return $mark->geometry instanceof Box && $this->codebook->class($mark->class)?->margin !== null;
    }

    /**
     * @param  list<Mark>  $marks  all of the item, in the order they are numbered in
     * @param  Plane  $plane  brightness of the whole picture
     * @return list<Finding>
     */
    public function item(array $marks, Plane $plane): array
    {
        $findings = $numbers = [];
        foreach ($marks as $mark) {
            $class = $this->codebook->class($mark->class);
            $number = $numbers[$mark->class] = ($numbers[$mark->class] ?? 0) + 1;
            if ($class?->margin === null || ! $mark->geometry instanceof Box || $mark->geometry->isEmpty()) {
                continue;
            }
            $loose = array_filter(Tightness::of($plane, $mark->geometry, $class->margin), static fn (array $side): bool => $side['verdict'] === 'loose');
            if (count($loose) >= self::SIDES) {
                $air = implode(', ', array_map(static fn (string $side, array $found): string => "{$found['air']} px {$side}", array_keys($loose), array_values($loose)));
                $most = rtrim(rtrim(number_format($class->margin->max, 1), '0'), '.').($class->margin->percent ? ' %' : ' px');
                $findings[] = new Finding('air', "{$class->name} {$number}: air of about {$air}; the rule allows {$most}", false, $mark->id);
            }
        }

        return $findings;
    }
}
