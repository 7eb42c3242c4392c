<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

/**
 * Says when another class fits the looks of an object much better than the one it was given. Quiet unless it is quite sure: the object
 * is far from its own class, and lies near another by that class's own measure.
 */
final readonly class SlipGuard
{
    /** Farther from its own class than this, in usual distances, an object may be a slip … */
    private const FAR = 1.3;

    /** … and by this factor nearer to another, it is one. */
    private const NEARER = 1.3;

    /** @param  array<string, ClassLooks>  $classes  those with enough examples, by key */
    public function __construct(private array $classes)
    {
    }

    /** @return ?array{class: string, own: float, other: float} the class that fits better, with both distances; null: no doubt */
    public function doubt(string $class, Looks $looks): ?array
    {
        if (! isset($this->classes[$class])) {
            return null;
        }
        $own = $this->classes[$class]->oddness($looks);
        if ($own < self::FAR) {
            return null;
        }
        $best = null;
        $least = INF;
        foreach ($this->classes as $key => $other) {
            $distance = $key === $class ? INF : $other->oddness($looks);
            if ($distance < $least) {
                [$best, $least] = [$key, $distance];
            }
        }

        return $best !== null && $own > self::NEARER * $least ? ['class' => $best, 'own' => round($own, 2), 'other' => round($least, 2)] : null;
    }
}
