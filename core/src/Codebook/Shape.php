<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Mask;

/** What kind of mark there is: what a class may be drawn as, and relations between marks, whose words are the codebook's relations. */
enum Shape: string
{
    case Box = 'box';
    case TurnedBox = 'turned_box';
    case Polygon = 'polygon';
    case Polyline = 'polyline';
    case Ellipse = 'ellipse';
    case Points = 'points';
    case Skeleton = 'skeleton';
    case Mask = 'mask';
    case Cuboid2d = 'cuboid_2d';
    case Cuboid = 'cuboid';
    case Span = 'span';
    case Relation = 'relation';

    /** Whether it lies on a plane: a picture, a frame, a slice, a page. */
    public function isFlat(): bool
    {
        return $this !== self::Cuboid && $this !== self::Span && $this !== self::Relation;
    }

    /** In words for a message. */
    public function words(): string
    {
        return match ($this) {
            self::Cuboid2d => 'cuboid on a picture',
            default => str_replace('_', ' ', $this->value),
        };
    }

    /**
     * Reads the geometry of a mark of this kind.
     *
     * @param  bool  $known  it comes from our own storage, so costly checks are not made again
     *
     * @throws InvalidValue
     */
    public function geometry(Fields $fields, string $path, bool $known = false): Geometry
    {
        return match ($this) {
            self::Box => Box::fromFields($fields, $path),
            self::TurnedBox => TurnedBox::fromFields($fields, $path),
            self::Polygon => Polygon::fromFields($fields, $path, $known),
            self::Polyline => Polyline::fromFields($fields, $path),
            self::Ellipse => Ellipse::fromFields($fields, $path),
            self::Points => PointSet::fromFields($fields, $path),
            self::Skeleton => Pose::fromFields($fields, $path),
            self::Mask => Mask::fromFields($fields, $path),
            self::Cuboid2d => Faces::fromFields($fields, $path),
            self::Cuboid => Cuboid::fromFields($fields, $path),
            self::Span => Span::fromFields($fields, $path),
            self::Relation => Join::fromFields($fields, $path),
        };
    }

    /**
     * The same for a kind that lies on a plane.
     *
     * @throws InvalidValue also when it is another kind
     */
    public function flat(Fields $fields, string $path, bool $known = false): Flat
    {
        $geometry = $this->geometry($fields, $path, $known);

        return $geometry instanceof Flat ? $geometry : throw InvalidValue::at($path, $this->value, 'a shape on a plane');
    }

    public static function of(Geometry $geometry): self
    {
        return match (true) {
            $geometry instanceof Box => self::Box,
            $geometry instanceof TurnedBox => self::TurnedBox,
            $geometry instanceof Polygon => self::Polygon,
            $geometry instanceof Polyline => self::Polyline,
            $geometry instanceof Ellipse => self::Ellipse,
            $geometry instanceof PointSet => self::Points,
            $geometry instanceof Pose => self::Skeleton,
            $geometry instanceof Mask => self::Mask,
            $geometry instanceof Faces => self::Cuboid2d,
            $geometry instanceof Cuboid => self::Cuboid,
            $geometry instanceof Span => self::Span,
            $geometry instanceof Join => self::Relation,
            default => throw InvalidValue::at('geometry', $geometry::class, 'a kind of geometry the codebook knows'),
        };
    }

    /** @return list<string> kinds on a plane, for messages */
    public static function flatKinds(): array
    {
        return array_values(array_map(static fn (self $shape): string => $shape->value, array_filter(self::cases(), static fn (self $shape): bool => $shape->isFlat())));
    }
}
