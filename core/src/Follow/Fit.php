<?php

declare(strict_types=1);

namespace Skeno\Core\Follow;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Track;

/**
 * How well what lies between the keys of a track fits the frames: what is seen there is held against what is seen at the keys round it, by normalised
 * cross-correlation. Frames come one after the other; keys outside of them are shown to it on their own.
 */
final class Fit
{
    /** Frames between two that are looked at closely. */
    private const APART = 5;

    /** px from the edge of the picture within which something is taken to be cut off by it. */
    private const EDGE = 1.5;

    /** By how much more it has to look like it elsewhere, to be said to be there. */
    private const GAIN = 0.05;

    /** @var array<int, ?Follower> what it looks like at keys; null where too little can be made out */
    private array $known = [];

    /** @var array<int, Patch> what is seen between keys */
    private array $looks = [];

    public function __construct(private readonly Track $track)
    {
    }

    /** A frame at which the track has a key. @param  float  $scale  px of the plane for one of the clip */
    public function key(Plane $plane, float $scale, int $place): void
    {
        $shape = $this->track->shape($place);
        $this->known[$place] = null;
        if (! $shape instanceof Flat || $this->track->isHidden($place) || self::isCut($plane, $shape->bounds()->scaled($scale))) {
            return;
        }
        try {
            $this->known[$place] = Follower::on($plane, $shape->bounds()->scaled($scale));
        } catch (InvalidValue) {
            // too small, outside of the picture or even all over: nothing can be held against it
        }
    }

    /** The next frame, whatever is on it. */
    public function frame(Plane $plane, float $scale, int $place): void
    {
        if (isset($this->track->keys[$place]->geometry)) {
            $this->key($plane, $scale, $place);

            return;
        }
        $shape = $this->track->shape($place);
        if (! $shape instanceof Flat || $this->track->isHidden($place)) {
            return;
        }
        $box = $shape->bounds()->scaled($scale);
        if (min($box->width, $box->height) >= 1.0 && ! self::isCut($plane, $box)) {
            $this->looks[$place] = Follower::look($plane, $box);
        }
    }

    /**
     * How alike it looks between keys and at them, for each frame that could be judged.
     *
     * @return array<int, float> likeness, 0 to 1, by place; the worst first
     */
    public function judged(): array
    {
        $fits = [];
        foreach ($this->looks as $place => $look) {
            $like = array_map(static fn (Follower $key): float => $key->likeness($look), $this->around($place));
            if ($like !== []) {
                $fits[$place] = max($like);
            }
        }
        asort($fits);

        return $fits;
    }

    /**
     * The frames to be looked at closely: those it is least like, apart from each other, as likeness says little of how far off it is.
     *
     * @return array<int, float> likeness by place, the worst first
     */
    public function doubtful(int $most): array
    {
        $picked = [];
        foreach ($this->judged() as $place => $likeness) {
            foreach ($picked as $other => $_) {
                if (abs($other - $place) < self::APART) {
                    continue 2;
                }
            }
            $picked[$place] = $likeness;
            if (count($picked) === $most) {
                break;
            }
        }

        return $picked;
    }

    /** Where it would fit a frame, looked for round where it lies between its keys; null where that can't be told, or its shape can't be taken along. */
    public function placed(Plane $plane, float $scale, int $place): ?Placed
    {
        $shape = $this->track->shape($place);
        if (! $shape instanceof Flat) {
            return null;
        }
        $best = null;
        foreach ($this->around($place) as $key) {
            $found = $key->sought($plane, $shape->bounds()->scaled($scale));
            if ($best === null || [$found->unsure === null, $found->certainty] > [$best->unsure === null, $best->certainty]) {
                $best = $found;
            }
        }
        if ($best === null) {
            return null;
        }
        $box = $best->box->scaled(1 / $scale);
        $look = Follower::look($plane, $shape->bounds()->scaled($scale));
        $here = max(0.0, ...array_map(static fn (Follower $key): float => $key->likeness($look), $this->around($place)));
        $unsure = $best->unsure ?? ($best->certainty < $here + self::GAIN ? 'it fits nowhere near much better' : null);
        $placed = Carried::along($shape, $shape->bounds(), $box);

        return $placed === null ? null : new Placed($placed, round($best->certainty, 4), $unsure, 1 - $box->iou($shape->bounds()));
    }

    /** Whether the edge of the picture cuts it off, as far as can be told: then what is seen of it is another part of it on each frame. */
    private static function isCut(Plane $plane, Box $box): bool
    {
        return $box->x < self::EDGE || $box->y < self::EDGE || $box->right() > $plane->width - self::EDGE || $box->bottom() > $plane->height - self::EDGE;
    }

    /** @return list<Follower> what it looks like at the keys before and after a place */
    private function around(int $place): array
    {
        $keys = [];
        foreach ([$this->track->before($place), $this->track->after($place)] as $key) {
            $known = $key === null ? null : $this->known[$key->place] ?? null;
            if ($known !== null) {
                $keys[] = $known;
            }
        }

        return $keys;
    }
}
