<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Closure;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;

/**
 * Follows an object by its looks from frame to frame: where it went on from the last frame to this one, and how much larger or smaller it has
 * become. It learns how the object changes, but never forgets how it looked where a hand drew it, so that small errors do not add up; and it says
 * when it is unsure, instead of following something else.
 *
 * Method: search for the place most like a template by normalised cross-correlation, from coarse to fine on a picture reduced to the size of the
 * object; the template is renewed slowly and the result aligned to the first one (I. Matthews, T. Ishikawa, S. Baker, "The template update
 * problem", 2004).
 */
final class Follower
{
    /** Sides in px below which there is too little to see. */
    public const LEAST = 6.0;

    /** Longer side in px to which the object is reduced. */
    private const SIZE = 44;

    /** How far from where it was expected it is looked for, as a share of its sides, and in px of the reduced picture at least. */
    private const RADIUS = 0.6;

    private const LEAST_RADIUS = 6.0;

    /** Likeness below which it is not the object any more. */
    private const LIKE = 0.55;

    /** Likeness of what is learned, and its share in the template. */
    private const LEARNED = 0.8;

    private const SHARE = 0.12;

    /** A second place, not near the first, that is as like but for this share: then it can't be told which is the object. */
    private const RIVAL = 0.96;

    /** Times it may become larger or smaller from one frame to the next. */
    private const GROWTH = 1.2;

    /** Share of the object that may lie outside of the picture. */
    private const OUTSIDE = 0.5;

    /** Samples across and down for looking round, and how many of the places found are looked at closely. */
    private const COARSE = 12;

    private const TRIED = 4;

    private Patch $recent;

    /** the same, where all of it counts alike: by that it is known again */
    private Patch $looked;

    private Patch $coarse;

    /** px by which it moved at last */
    private float $vx = 0.0;

    private float $vy = 0.0;

    private function __construct(private Box $box, private readonly Patch $first, private readonly Patch $drawn, Patch $coarse)
    {
        $this->recent = $first;
        $this->looked = $drawn;
        $this->coarse = $coarse;
    }

    /** @throws InvalidValue when the box is too small, lies mostly outside, or nothing can be made out in it */
    public static function on(Plane $plane, Box $box): self
    {
        if (min($box->width, $box->height) < self::LEAST) {
            throw InvalidValue::at('box', sprintf('%.1f × %.1f px', $box->width, $box->height), 'sides of at least '.self::LEAST.' px, to be followed by looks');
        }
        if (self::outside($plane, $box) > self::OUTSIDE) {
            throw InvalidValue::at('box', 'mostly outside of the picture', 'an object that can be seen');
        }
        $sight = Sight::of($plane, $box, self::SIZE, 0.0, 0.0);
        $first = $sight->patch($box);
        if ($first->contrast < Patch::FLAT) {
            throw InvalidValue::at('box', 'even all over', 'an object with something to make out, to be followed by looks');
        }

        return new self($box, $first, $sight->even($box), $sight->rough($box, self::COARSE));
    }

    /** Goes on where it was found before: how it looked there counts as learned. */
    public function takenUp(Plane $plane, Box $box): void
    {
        $this->box = $box;
        $this->vx = $this->vy = 0.0;
        $sight = Sight::of($plane, $box, self::SIZE, 0.0, 0.0);
        $this->recent = $sight->patch($box);
        $this->looked = $sight->even($box);
        $this->coarse = $sight->rough($box, self::COARSE);
    }

    /** @param  Plane  $plane  the next frame, as large as the one before */
    public function next(Plane $plane): Followed
    {
        [$best, $rival, $box, $sight, $look, $like] = $this->seen($plane, self::moved($this->box, $this->vx, $this->vy, 1.0));
        if ($like < self::LIKE) {
            // it may have turned back
            [$best, $rival, $box, $sight, $look, $like] = $this->seen($plane, $this->box);
        }
        $patch = $sight->patch($box);
        $unsure = self::doubt($plane, $box, $like, $best, $rival);
        if ($unsure === null) {
            [$x, $y] = self::center($this->box);
            [$u, $v] = self::center($box);
            [$this->vx, $this->vy] = [$u - $x, $v - $y];
            $this->box = $box;
            if ($like >= self::LEARNED) {
                $this->recent = $this->recent->mixed($patch, self::SHARE);
                $this->looked = $this->looked->mixed($look, self::SHARE);
                $this->coarse = $this->coarse->mixed($sight->rough($box, self::COARSE), self::SHARE);
            }
        }

        return new Followed($box, min(1.0, $like), $unsure);
    }

    /** @return array{float, float, Box, Sight, Patch, float} as of found(), what it looks like there, and how like it that is */
    private function seen(Plane $plane, Box $expected): array
    {
        [$best, $rival, $box, $sight] = $this->found($plane, $expected);
        $look = $sight->even($box);

        $like = max(0.0, $look->likeness($this->looked), $look->likeness($this->drawn));
        // nothing grows that much from one frame to the next: a part of something else was taken for it
        $grown = $box->width / $expected->width;

        return [$best, $rival, $box, $sight, $look, $grown < 1 / self::GROWTH || $grown > self::GROWTH ? 0.0 : $like];
    }

    /** Where it is on any other frame, looked for round a place. Nothing is learned by that. */
    public function sought(Plane $plane, Box $expected): Followed
    {
        [$best, $rival, $box, $sight] = $this->found($plane, $expected);
        $like = $this->likeness($sight->even($box));

        return new Followed($box, min(1.0, $like), self::doubt($plane, $box, $like, $best, $rival));
    }

    /** How like it a place looks, 0 to 1; see look(). */
    public function likeness(Patch $look): float
    {
        return max(0.0, $look->likeness($this->drawn));
    }

    /** What a place of a frame looks like, as it can be held against what is followed. */
    public static function look(Plane $plane, Box $box): Patch
    {
        return Sight::of($plane, $box, self::SIZE, 0.0, 0.0)->even($box);
    }

    /** Why a place that was found is not to be trusted; null when it is. */
    private static function doubt(Plane $plane, Box $box, float $like, float $best, float $rival): ?string
    {
        return match (true) {
            self::outside($plane, $box) > self::OUTSIDE => 'it has left the picture',
            $like < self::LIKE => 'nothing here looks like it any more',
            $rival > self::RIVAL * $best => 'something else here looks as much like it',
            default => null,
        };
    }

    /**
     * Where it is, looked for round a place.
     *
     * @return array{float, float, Box, Sight} how like it that is, how like it the next best place is that lies apart from it, and where
     */
    private function found(Plane $plane, Box $expected): array
    {
        $step = Sight::step($this->box, self::SIZE);
        $rx = max(self::RADIUS * $this->box->width, self::LEAST_RADIUS * $step);
        $ry = max(self::RADIUS * $this->box->height, self::LEAST_RADIUS * $step);
        $sight = Sight::of($plane, $expected, self::SIZE, $rx, $ry);
        [$places, $apart] = $this->searched($sight, $expected, $rx, $ry, $step);
        [$best, $box] = [-2.0, $expected];
        foreach ($places as $place) {
            [$like, $there] = $this->uphill($sight->even(...), $this->looked, $place, [$step, $step / 2], 0.0);
            if ($like > $best) {
                [$best, $box] = [$like, $there];
            }
        }
        [$best, $box] = $this->uphill($sight->even(...), $this->looked, $box, [$step / 2, $step / 8], 0.03);
        $rival = -1.0;
        if ($apart !== null) {
            [$like, $there] = $this->uphill($sight->even(...), $this->looked, $apart, [$step, $step / 4], 0.0);
            $rival = self::near($there, $box) ? -1.0 : $like;
        }
        // the middle of it settles where it is: what shows at the rim may be ground that moves otherwise
        [, $box] = $this->uphill($sight->patch(...), $this->recent, $box, [$step / 2, $step / 8], 0.01);
        // and back to what a hand drew, as far as that still looks like it: what was learned on the way may have slipped
        [$like, $there] = $this->uphill($sight->patch(...), $this->first, $box, [$step, $step / 8], 0.02);
        if ($like >= self::LEARNED) {
            $box = $there;
        }

        return [$best, $rival, $box, $sight];
    }

    /** Whether two places are about the same. */
    private static function near(Box $a, Box $b): bool
    {
        return abs($a->x - $b->x) <= 0.5 * $b->width && abs($a->y - $b->y) <= 0.5 * $b->height;
    }

    /**
     * Every place round the expected one, coarsely.
     *
     * @return array{list<Box>, ?Box} the best, from which to look closer; and the best that lies apart from the very best
     */
    private function searched(Sight $sight, Box $expected, float $rx, float $ry, float $step): array
    {
        $pace = 2.5 * $step;
        [$nx, $ny] = [(int) ceil($rx / $pace), (int) ceil($ry / $pace)];
        $found = [];
        for ($i = -$nx; $i <= $nx; $i++) {
            for ($j = -$ny; $j <= $ny; $j++) {
                $place = self::moved($expected, $i * $pace, $j * $pace, 1.0);
                $found[] = [$sight->rough($place, self::COARSE)->likeness($this->coarse), $place];
            }
        }
        usort($found, static fn (array $a, array $b): int => $b[0] <=> $a[0]);
        $apart = null;
        foreach ($found as [, $place]) {
            if (! self::near($place, $found[0][1])) {
                $apart = $place;
                break;
            }
        }

        return [array_column(array_slice($found, 0, self::TRIED), 1), $apart];
    }

    /**
     * Uphill from a place, by ever smaller steps.
     *
     * @param  Closure(Box): Patch  $look  what is seen at a place
     * @param  array{float, float}  $pace  px of the first steps and of the last
     * @param  float  $scale  by which it may become larger or smaller with the first steps; 0: it stays as large
     * @return array{float, Box}
     */
    private function uphill(Closure $look, Patch $template, Box $box, array $pace, float $scale): array
    {
        $best = $look($box)->likeness($template);
        for ($step = $pace[0]; $step >= $pace[1];) {
            $from = $box;
            $ways = [[-$step, 0.0, 1.0], [$step, 0.0, 1.0], [0.0, -$step, 1.0], [0.0, $step, 1.0]];
            if ($scale > 0) {
                array_push($ways, [0.0, 0.0, 1 - $scale], [0.0, 0.0, 1 + $scale]);
            }
            foreach ($ways as [$dx, $dy, $grown]) {
                $place = self::moved($from, $dx, $dy, $grown);
                $like = $look($place)->likeness($template);
                if ($like > $best) {
                    [$best, $box] = [$like, $place];
                }
            }
            if ($box === $from) {
                $step /= 2;
                $scale /= 2;
            }
        }

        return [$best, $box];
    }

    private static function moved(Box $box, float $dx, float $dy, float $scale): Box
    {
        return Box::of($box->x + $dx + (1 - $scale) * $box->width / 2, $box->y + $dy + (1 - $scale) * $box->height / 2, $box->width * $scale, $box->height * $scale);
    }

    /** @return array{float, float} */
    private static function center(Box $box): array
    {
        return [$box->x + $box->width / 2, $box->y + $box->height / 2];
    }

    /** Share of a box that lies outside of the picture. */
    private static function outside(Plane $plane, Box $box): float
    {
        return 1 - ($box->clippedTo($plane->width, $plane->height)?->area() ?? 0.0) / $box->area();
    }
}
