<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Coordinates;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;

/** The members of a COCO annotation that say where an object lies, both ways. */
final readonly class CocoShape
{
    /** Digits after the point. */
    private const DIGITS = 8;

    public function __construct(private Codebook $codebook)
    {
    }

    /** Whether COCO can say it at all; lines and cuboids it can't. */
    public function holds(LabelClass $class, Geometry $geometry): bool
    {
        return match (true) {
            $geometry instanceof Box, $geometry instanceof Polygon, $geometry instanceof Mask, $geometry instanceof Ellipse, $geometry instanceof TurnedBox => true,
            $geometry instanceof Pose => $this->codebook->skeletonOf($class) !== null,
            $geometry instanceof PointSet => $this->codebook->skeletonOf($class) === null,
            default => false,
        };
    }

    /**
     * @param  int  $width  of the picture
     * @param  int  $height  of the picture
     * @return array{bbox: list<float>, area: float, segmentation: mixed, keypoints?: list<float|int>, num_keypoints?: int}
     */
    public function write(LabelClass $class, Flat $geometry, int $width, int $height): array
    {
        $box = self::rounded($geometry->bounds());
        $data = ['bbox' => [$box->x, $box->y, $box->width, $box->height], 'area' => round($geometry->area(), self::DIGITS), 'segmentation' => []];
        if ($geometry instanceof Polygon && $geometry->hasHoles()) {
            $mask = ScanConversion::mask($geometry->rings(), $width, $height);
            $inside = $mask->bounds();
            $data = ['bbox' => [$inside->x, $inside->y, $inside->width, $inside->height], 'area' => $mask->area(), 'segmentation' => $mask->toArray()];
        } elseif ($geometry instanceof Polygon || $geometry instanceof TurnedBox || $geometry instanceof Ellipse) {
            $data['segmentation'] = array_map(static fn (array $ring): array => array_map(static fn (float $value): float => round($value, self::DIGITS), $ring), $geometry->rings());
        } elseif ($geometry instanceof Mask) {
            $data['segmentation'] = $geometry->toArray();
        } elseif ($geometry instanceof Pose) {
            $data['area'] = round($box->area(), self::DIGITS);
            $data['keypoints'] = [];
            foreach (array_keys($this->codebook->skeletonOf($class)->nodes ?? []) as $key) {
                $node = $geometry->nodes[$key] ?? null;
                array_push($data['keypoints'], ...($node === null ? [0, 0, 0] : [$node['x'], $node['y'], $node['state'] === Pose::VISIBLE ? 2 : 1]));
            }
            $data['num_keypoints'] = count($geometry->nodes);
        } elseif ($geometry instanceof PointSet) {
            $data['area'] = round($box->area(), self::DIGITS);
            $data['keypoints'] = [];
            foreach (array_chunk($geometry->points, 2) as [$x, $y]) {
                array_push($data['keypoints'], $x, $y, 2);
            }
            $data['num_keypoints'] = $geometry->count();
        }

        return $data;
    }

    /**
     * @param  list<string>  $names  of the category's keypoints, as the file says them
     * @param  list<string>  $notices  what was done otherwise, added to
     *
     * @throws InvalidValue
     */
    public function read(LabelClass $class, Fields $fields, array $names, int $width, int $height, array &$notices): Geometry
    {
        $keypoints = $fields->list('keypoints');
        if ($keypoints !== []) {
            $read = $this->keypoints($class, $keypoints, $names, $fields->path('keypoints'));
            if ($read !== null) {
                return $read;
            }
            $notices[] = 'keypoints were left out; their class has none';
        }
        $segmentation = $fields->raw('segmentation');
        if (is_array($segmentation) && $segmentation !== []) {
            $given = array_is_list($segmentation)
                ? $this->rings($class, $segmentation, $width, $height, $fields->path('segmentation'), $notices)
                : $this->mask(Fields::of($segmentation, $fields->path('segmentation')), $width, $height);
            [$geometry, $notice] = Fit::into($class, $given, $width, $height);
            if ($notice !== null) {
                $notices[] = $notice;
            }
            // of a class that has only boxes, the file's own box says more than one made from the outline
            if (! $geometry instanceof Box || $given instanceof Box || ! is_array($fields->raw('bbox'))) {
                return $geometry;
            }
        }
        $numbers = [];
        foreach ($fields->list('bbox') as $i => $value) {
            // a plain number is what nearly every file has; only the rest needs a place for its error
            $numbers[] = is_float($value) || is_int($value) ? (float) $value : Fields::of(['n' => $value], $fields->path("bbox[{$i}]"))->number('n', true);
        }
        if (count($numbers) !== 4) {
            throw InvalidValue::at($fields->path('bbox'), $fields->raw('bbox'), 'four numbers [x, y, width, height]');
        }
        [$box, $notice] = Fit::into($class, Box::of($numbers[0], $numbers[1], $numbers[2], $numbers[3], $fields->path('bbox')), $width, $height);
        if ($notice !== null) {
            $notices[] = $notice;
        }

        return $box;
    }

    /** Boxes and outlines are written to eight digits: what adding and turning leave behind it is no number anybody drew. */
    public static function rounded(Box $box): Box
    {
        return Box::of(round($box->x, self::DIGITS), round($box->y, self::DIGITS), round($box->width, self::DIGITS), round($box->height, self::DIGITS));
    }

    /** What a reader makes of a mark once it is written. */
    public function hold(LabelClass $class, Geometry $geometry, int $width, int $height): ?Geometry
    {
        if (! $geometry instanceof Flat || ! $this->holds($class, $geometry)) {
            return null;
        }
        if ($geometry instanceof Box) {
            return Fit::into($class, self::rounded($geometry), $width, $height)[0];
        }
        $names = $geometry instanceof Pose ? array_keys($this->codebook->skeletonOf($class)->nodes ?? []) : [];
        $notices = [];

        return $this->read($class, Fields::of($this->write($class, $geometry, $width, $height)), $names, $width, $height, $notices);
    }

    /**
     * @param  list<mixed>  $list  x, y, v for each
     * @param  list<string>  $names
     */
    private function keypoints(LabelClass $class, array $list, array $names, string $path): ?Geometry
    {
        if (count($list) % 3 !== 0) {
            throw InvalidValue::at($path, $list, 'x, y, v for each keypoint');
        }
        $skeleton = $this->codebook->skeletonOf($class);
        if ($skeleton === null || ! $class->allows(Shape::Skeleton)) {
            if (! $class->allows(Shape::Points)) {
                return null;
            }
            $points = [];
            foreach (array_chunk($list, 3) as $i => [$x, $y, $v]) {
                if ($v !== 0 && $v !== 0.0) {
                    array_push($points, Coordinates::number($x, "{$path}[".(3 * $i).']'), Coordinates::number($y, "{$path}[".(3 * $i + 1).']'));
                }
            }

            return $points === [] ? null : PointSet::of($points, $path);
        }
        $keys = array_keys($skeleton->nodes);
        $byName = [];
        foreach ($skeleton->nodes as $node) {
            $byName[mb_strtolower($node->name)] = $node->key;
        }
        $nodes = [];
        foreach (array_chunk($list, 3) as $i => [$x, $y, $v]) {
            if ($v === 0 || $v === 0.0) {
                continue;
            }
            $name = $names[$i] ?? null;
            // a file without names gives its keypoints in the skeleton's order
            $key = $name === null ? ($keys[$i] ?? null) : (isset($skeleton->nodes[$name]) ? $name : ($byName[mb_strtolower($name)] ?? null));
            if ($key === null) {
                throw InvalidValue::at("{$path}[".(3 * $i).']', $name ?? 'keypoint '.($i + 1), "a node of the skeleton {$skeleton->name}");
            }
            if ($v !== 1 && $v !== 2 && $v !== 1.0 && $v !== 2.0) {
                throw InvalidValue::at("{$path}[".(3 * $i + 2).']', $v, '0, 1 or 2');
            }
            $nodes[$key] = ['x' => $x, 'y' => $y, 'state' => (int) $v === 2 ? Pose::VISIBLE : Pose::HIDDEN];
        }

        return $nodes === [] ? null : Pose::of($nodes, $path);
    }

    /**
     * @param  list<mixed>  $list  flat rings
     * @param  list<string>  $notices
     */
    private function rings(LabelClass $class, array $list, int $width, int $height, string $path, array &$notices): Geometry
    {
        $rings = [];
        foreach ($list as $i => $ring) {
            if (is_array($ring) && count($ring) < 6) {
                $notices[] = 'rings of fewer than three points were left out';

                continue;
            }
            $rings[] = Coordinates::check(is_array($ring) ? array_values($ring) : $ring, "{$path}[{$i}]", 3);
        }
        if ($rings === []) {
            throw InvalidValue::at($path, $list, 'at least one ring of three points or more');
        }
        try {
            $polygon = Polygon::of($rings, $path);
        } catch (InvalidValue $e) {
            if (! $class->allows(Shape::Mask)) {
                throw $e;
            }
            // other programs read several rings as all their pixels together
            $notices[] = 'outlines that cross themselves or each other came in as masks';
            $mask = Mask::none($width, $height);
            foreach ($rings as $ring) {
                $mask = $mask->union(ScanConversion::mask([$ring], $width, $height));
            }

            return $mask;
        }
        if ($polygon->hasHoles()) {
            $notices[] = 'rings inside other rings were left out: COCO has no holes';

            return $polygon->withoutNested();
        }

        return $polygon;
    }

    private function mask(Fields $fields, int $width, int $height): Mask
    {
        $mask = Mask::fromFields($fields, 'segmentation');
        if ($mask->width !== $width || $mask->height !== $height) {
            throw InvalidValue::at($fields->path('size'), "{$mask->height} × {$mask->width}", "{$height} × {$width}, the height and width of the picture");
        }

        return $mask;
    }
}
