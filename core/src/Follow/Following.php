<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;

/** Follows a shape by the looks of the box around it; taken up again where it was found at last, it still knows how a hand drew it. */
final class Following
{
    private ?Follower $follower = null;

    private float $certainty = 1.0;

    private ?string $unsure = null;

    private readonly Box $from;

    private readonly Box $to;

    private function __construct(private readonly Flat $drawn, Flat $last)
    {
        $this->from = $drawn->bounds();
        $this->to = $last->bounds();
    }

    /**
     * @param  Flat  $drawn  by a hand
     * @param  Flat  $last  where it was found at last; the same when it has not been followed yet
     *
     * @throws InvalidValue for a shape that can't be taken along
     */
    public static function of(Flat $drawn, Flat $last): self
    {
        if (Carried::along($drawn, $drawn->bounds(), $drawn->bounds()) === null) {
            throw InvalidValue::at('kind', 'a shape of pixels', 'a box, an outline, a line, points or a skeleton, to be followed by looks');
        }

        return new self($drawn, $last);
    }

    /** The frame a hand drew it on. @param  float  $scale  px of the plane for one of the clip */
    public function first(Plane $plane, float $scale): void
    {
        $this->follower = Follower::on($plane, $this->from->scaled($scale));
    }

    /** The frame it was found on at last. */
    public function last(Plane $plane, float $scale): void
    {
        if ($this->follower === null) {
            $this->follower = Follower::on($plane, $this->to->scaled($scale));
        } else {
            $this->follower->takenUp($plane, $this->to->scaled($scale));
        }
    }

    /** The shape on the next frame; null when it is not sure any more, and says why. */
    public function next(Plane $plane, float $scale): ?Flat
    {
        $found = $this->follower?->next($plane) ?? throw InvalidValue::at('frame', null, 'the frame it was drawn on first');
        $this->certainty = round($found->certainty, 4);
        $this->unsure = $found->unsure;

        return $found->unsure === null ? Carried::along($this->drawn, $this->from, $found->box->scaled(1 / $scale)) : null;
    }

    public function certainty(): float
    {
        return $this->certainty;
    }

    public function unsure(): ?string
    {
        return $this->unsure;
    }
}
