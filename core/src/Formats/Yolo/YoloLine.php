<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Skeleton;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Region;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;

/** A geometry as the numbers after the class of a YOLO line, in shares of the picture with 6 decimals, and back. */
final readonly class YoloLine
{
    public function __construct(private Codebook $codebook, private YoloKind $kind)
    {
    }

    /** Nodes in every line of a pose dataset: as many as the largest skeleton has. */
    public function nodes(): int
    {
        $most = 0;
        foreach ($this->codebook->classes as $class) {
            $most = max($most, count($this->codebook->skeletonOf($class)->nodes ?? []));
        }

        return $most;
    }

    /** The numbers, or null when this kind of YOLO can't say it. */
    public function write(LabelClass $class, Geometry $geometry, int $width, int $height): ?string
    {
        return match ($this->kind) {
            YoloKind::Boxes => $geometry instanceof Region || $geometry instanceof Mask ? self::box($geometry->bounds(), $width, $height) : null,
            YoloKind::Turned => $this->turned($geometry, $width, $height),
            YoloKind::Segments => $this->segments($geometry, $width, $height),
            YoloKind::Pose => $geometry instanceof Pose && $this->codebook->skeletonOf($class) !== null ? $this->pose($geometry, $this->codebook->skeletonOf($class), $width, $height) : null,
        };
    }

    /**
     * @param  list<float>  $numbers  after the class
     * @param  list<string>  $notices  what was done otherwise, added to
     *
     * @throws InvalidValue
     */
    public function read(LabelClass $class, array $numbers, int $width, int $height, array &$notices): Geometry
    {
        $n = count($numbers);
        $skeleton = $this->codebook->skeletonOf($class);
        if ($n === 4) {
            $given = self::fromCentre($numbers, $width, $height);
        } elseif ($n === 8 && $this->kind !== YoloKind::Segments) {
            $given = TurnedBox::fromCorners(self::scaled($numbers, $width, $height));
        } elseif ($this->kind === YoloKind::Pose || ($this->kind === YoloKind::Boxes && $skeleton !== null && $n >= 4 + 2 * count($skeleton->nodes) && in_array($n - 4, [2 * count($skeleton->nodes), 3 * count($skeleton->nodes)], true))) {
            return $this->nodesOf($skeleton, $numbers, $width, $height);
        } elseif ($n >= 6 && $n % 2 === 0) {
            $given = Polygon::of(Seam::part(self::scaled($numbers, $width, $height)), 'segment');
        } else {
            throw InvalidValue::at('the line', ($n + 1).' numbers', 'five (class cx cy w h), nine (class and four corners) or class and an outline of three points or more');
        }
        [$geometry, $notice] = Fit::into($class, $given, $width, $height);
        if ($notice !== null) {
            $notices[] = $notice;
        }

        return $geometry;
    }

    /** What a reader makes of a mark once it is written. */
    public function hold(LabelClass $class, Geometry $geometry, int $width, int $height): ?Geometry
    {
        $line = $this->write($class, $geometry, $width, $height);
        $notices = [];

        return $line === null ? null : $this->read($class, array_map(floatval(...), explode(' ', $line)), $width, $height, $notices);
    }

    private static function box(Box $box, int $width, int $height): ?string
    {
        $box = $box->clippedTo($width, $height);

        return $box === null ? null : sprintf('%.6F %.6F %.6F %.6F', ($box->x + $box->width / 2) / $width, ($box->y + $box->height / 2) / $height, $box->width / $width, $box->height / $height);
    }

    private function turned(Geometry $geometry, int $width, int $height): ?string
    {
        return match (true) {
            $geometry instanceof TurnedBox => self::points($geometry->rings()[0], $width, $height),
            $geometry instanceof Box => self::points($geometry->rings()[0], $width, $height),
            default => null,
        };
    }

    private function segments(Geometry $geometry, int $width, int $height): ?string
    {
        $rings = match (true) {
            $geometry instanceof Region => $geometry->rings(),
            $geometry instanceof Mask => Contours::rings($geometry),
            default => [],
        };

        return $rings === [] ? null : self::points(Seam::join($rings), $width, $height);
    }

    private function pose(Pose $pose, Skeleton $skeleton, int $width, int $height): string
    {
        $box = self::box($pose->bounds(), $width, $height) ?? sprintf('%.6F %.6F 0.000000 0.000000', $pose->bounds()->x / $width, $pose->bounds()->y / $height);
        foreach (array_keys($skeleton->nodes) as $key) {
            $node = $pose->nodes[$key] ?? null;
            $box .= $node === null ? ' 0.000000 0.000000 0' : sprintf(' %.6F %.6F %d', $node['x'] / $width, $node['y'] / $height, $node['state'] === Pose::VISIBLE ? 2 : 1);
        }

        return $box.str_repeat(' 0.000000 0.000000 0', $this->nodes() - count($skeleton->nodes));
    }

    /** @param  list<float>  $numbers */
    private function nodesOf(?Skeleton $skeleton, array $numbers, int $width, int $height): Pose
    {
        if ($skeleton === null) {
            throw InvalidValue::at('class', 'a class without a skeleton', 'a class with one');
        }
        $rest = array_slice($numbers, 4);
        $count = count($skeleton->nodes);
        $step = count($rest) % 3 === 0 && count($rest) >= 3 * $count ? 3 : 2;
        if (count($rest) < $step * $count || count($rest) % $step !== 0) {
            throw InvalidValue::at('the line', (count($numbers) + 1).' numbers', (5 + 3 * $count)." (class cx cy w h and x y v of {$count} nodes)");
        }
        $nodes = [];
        foreach (array_keys($skeleton->nodes) as $i => $key) {
            $v = $step === 3 ? $rest[3 * $i + 2] : 2.0;
            if ($v !== 0.0) {
                // a place past the edge is rounding
                $nodes[$key] = ['x' => max(0.0, min($width, $rest[$step * $i] * $width)), 'y' => max(0.0, min($height, $rest[$step * $i + 1] * $height)), 'state' => $v >= 2.0 ? Pose::VISIBLE : Pose::HIDDEN];
            }
        }

        return Pose::of($nodes);
    }

    /** @param  list<float>  $numbers  cx cy w h */
    private static function fromCentre(array $numbers, int $width, int $height): Box
    {
        [$cx, $cy, $w, $h] = $numbers;
        foreach (['cx' => $cx, 'cy' => $cy, 'w' => $w, 'h' => $h] as $name => $value) {
            if ($value < 0 || $value > 1.5) {
                throw InvalidValue::at($name, $value, 'a share of the picture from 0 to 1');
            }
        }

        return Box::of(($cx - $w / 2) * $width, ($cy - $h / 2) * $height, $w * $width, $h * $height);
    }

    /**
     * @param  list<float>  $numbers
     * @return list<float>
     */
    private static function scaled(array $numbers, int $width, int $height): array
    {
        foreach ($numbers as $i => $value) {
            if ($value < -0.5 || $value > 1.5) {
                throw InvalidValue::at('number '.($i + 2), $value, 'a share of the picture from 0 to 1');
            }
            $numbers[$i] = $value * ($i % 2 === 0 ? $width : $height);
        }

        return Coordinates::check($numbers, 'the line', 3);
    }

    /** @param  list<float>  $ring */
    private static function points(array $ring, int $width, int $height): string
    {
        $text = [];
        foreach ($ring as $i => $value) {
            $text[] = sprintf('%.6F', $value / ($i % 2 === 0 ? $width : $height));
        }

        return implode(' ', $text);
    }
}
