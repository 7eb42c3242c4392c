<?php

declare(strict_types=1);

namespace Skeno\Core\Cutout;

use Skeno\Core\Assist\Conversion;
use Skeno\Core\Follow\Following;
use Skeno\Core\Formats\Painting;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Raster\Contours;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;

/**
 * An object cut out again on later frames: it is followed by its looks from frame to frame, and where its outline is wanted, the last one,
 * carried there, tells about where it is.
 */
final class Again
{
    /** Round the object when it is cut out again, as a share of its longer side. */
    private const AIR = 0.15;

    /** How much an outline has to have in common with the last one, carried along, to be believed. */
    private const COMMON = 0.5;

    private Mask $last;

    private Box $lastBox;

    private Following $following;

    private Box $now;

    private ?string $unsure = null;

    /**
     * @param  Flat  $drawn  a polygon or a mask, as it was on the first frame
     * @param  int  $width  of the frames, $height likewise
     *
     * @throws InvalidValue for what has no outline
     */
    public function __construct(private readonly Flat $drawn, private readonly int $width, private readonly int $height, private readonly float $tolerance = 1.0)
    {
        $mask = $drawn instanceof Polygon || $drawn instanceof Mask ? Painting::mask($drawn, $width, $height) : null;
        if ($mask === null || $mask->isEmpty()) {
            throw InvalidValue::at('kind', 'a shape without area', 'a polygon or a mask that covers an area');
        }
        if ($tolerance < 0 || $tolerance > 20) {
            throw InvalidValue::at('tolerance', $tolerance, '0 to 20 px');
        }
        $this->last = $mask;
        $this->lastBox = $this->now = $mask->bounds();
        $this->following = Following::of($this->now, $this->now);
    }

    /** The frame it was drawn on. @param  float  $scale  px of the plane for one of the frame */
    public function first(Plane $plane, float $scale): void
    {
        $this->following->last($plane, $scale);
    }

    /** Follows it to the next frame; false when it is not sure any more. */
    public function next(Plane $plane, float $scale): bool
    {
        $found = $this->following->next($plane, $scale);
        $this->unsure = $this->following->unsure();
        if (! $found instanceof Box) {
            return false;
        }
        $this->now = $found;

        return true;
    }

    /** What has to be read of the frame to cut it out there. */
    public function window(): Window
    {
        $air = self::AIR * max($this->now->width, $this->now->height);

        return Window::round(Box::of($this->now->x - $air, $this->now->y - $air, $this->now->width + 2 * $air, $this->now->height + 2 * $air), [], $this->width, $this->height);
    }

    /**
     * The outline on the frame it was followed to; null when it can't be told from the ground any more. From there it is followed on.
     *
     * @param  Colours  $part  what the window asked for
     */
    public function cut(Colours $part, Window $window, Plane $plane, float $scale): ?Flat
    {
        $carried = $this->carried();
        $mask = $window->out((new Cutout($part, $window->box, $window->in($carried)))->mask());
        if ($mask->isEmpty() || $mask->iou($carried) < self::COMMON) {
            $this->unsure = 'its outline can not be told from the ground any more';

            return null;
        }
        $this->last = $mask;
        $this->lastBox = $this->now = $mask->bounds();
        $this->following = Following::of($this->now, $this->now);
        $this->following->last($plane, $scale);

        return $this->drawn instanceof Mask ? $mask : Conversion::outline($mask, $this->tolerance);
    }

    public function certainty(): float
    {
        return $this->following->certainty();
    }

    /** Why it is not sure any more. */
    public function unsure(): ?string
    {
        return $this->unsure;
    }

    /** The last outline where the object is now. */
    private function carried(): Mask
    {
        [$from, $to] = [$this->lastBox, $this->now];
        [$sx, $sy] = [$to->width / max(1e-6, $from->width), $to->height / max(1e-6, $from->height)];
        $rings = array_map(static function (array $ring) use ($from, $to, $sx, $sy): array {
            foreach ($ring as $i => $value) {
                $ring[$i] = $i % 2 === 0 ? $to->x + ($value - $from->x) * $sx : $to->y + ($value - $from->y) * $sy;
            }

            return $ring;
        }, Contours::rings($this->last));

        return ScanConversion::mask($rings, $this->width, $this->height);
    }
}
