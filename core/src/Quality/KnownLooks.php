<?php

declare(strict_types=1);

namespace Skeno\Core\Quality;

/** The looks of all classes of a project that have enough examples, held against each other. */
final readonly class KnownLooks
{
    /**
     * Natural log odds from which another class is said to fit much better. With one label in a hundred wrong this finds nine in ten
     * of them and speaks up at one good object in a hundred (bench/looks).
     */
    private const MUCH = 15.0;

    /** @param  array<string, ClassLooks>  $classes  by key */
    public function __construct(private array $classes)
    {
    }

    /** @return list<string> */
    public function classes(): array
    {
        return array_keys($this->classes);
    }

    /**
     * How odd an object is among those of its class: how far it lies from the class's own looks, in usual distances, and on top of
     * that, where another class is likelier, by what log odds it is.
     *
     * @return ?float from 0; null when too little is known of the class
     */
    public function oddness(string $class, Looks $looks): ?float
    {
        return isset($this->classes[$class]) ? $this->classes[$class]->oddness($looks) + max(0.0, $this->likelier($class, $looks)['odds']) : null;
    }

    /** @return ?array{class: string, odds: float} the class that fits much better, with its natural log odds; null: no doubt */
    public function doubt(string $class, Looks $looks): ?array
    {
        if (! isset($this->classes[$class])) {
            return null;
        }
        $likelier = $this->likelier($class, $looks);

        return $likelier['odds'] > self::MUCH ? ['class' => $likelier['class'], 'odds' => round($likelier['odds'], 1)] : null;
    }

    /**
     * The likeliest of the other classes, each taken for normally distributed and as frequent as any.
     *
     * @return array{class: string, odds: float}
     */
    private function likelier(string $class, Looks $looks): array
    {
        $best = $class;
        $least = INF;
        foreach ($this->classes as $key => $other) {
            if ($key !== $class && ($unlikely = $other->unlikelihood($looks)) < $least) {
                [$best, $least] = [$key, $unlikely];
            }
        }

        return ['class' => $best, 'odds' => $least === INF ? -INF : ($this->classes[$class]->unlikelihood($looks) - $least) / 2];
    }
}
