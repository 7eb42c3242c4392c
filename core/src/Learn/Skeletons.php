<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Skeno\Core\Geometry\Pose;
use Skeno\Core\Inference\Found;
use Skeno\Core\InvalidValue;

/** Finds skeletons: where something lies that looks like one, by the region accepted ones cover, and in each such place its nodes. */
final readonly class Skeletons
{
    /** @param  array<string, Poses>  $poses  by class */
    public function __construct(private Regions $finder, public array $poses)
    {
    }

    /**
     * @param  list<Example>  $examples
     * @param  array<string, array{nodes: list<string>, flip: list<int>}>  $classes  keys of nodes, and of each the place of its twin
     * @param  null|callable(float): void  $progress  told from 0 to 1; what it throws ends it
     *
     * @throws InvalidValue when there is too little to learn from
     */
    public static function learn(array $examples, array $classes, int $seed = 1, ?callable $progress = null): self
    {
        $progress ??= static function (float $part): void {
        };
        $poses = [];
        foreach ($classes as $class => $skeleton) {
            $poses[$class] = Poses::learn($examples, $class, $skeleton['nodes'], $skeleton['flip'], $seed, static fn (float $p) => $progress(0.4 * (count($poses) + $p) / count($classes)));
        }
        $covered = [];
        foreach ($examples as $example) {
            $things = [];
            foreach ($example->things as $thing) {
                $shape = $thing['geometry'] instanceof Pose && isset($classes[$thing['class']]) ? Hull::of($thing['geometry']) : null;
                if ($shape !== null) {
                    $things[] = ['class' => $thing['class'], 'geometry' => $shape];
                }
            }
            $covered[] = new Example($example->part, $example->width, $example->height, $things, $example->unknown);
        }

        return new self(Regions::learn($covered, array_keys($classes), $seed, static fn (float $p) => $progress(0.4 + 0.6 * $p), true), $poses);
    }

    /**
     * @param  callable(int, int, int, int, int, int): \Skeno\Core\Imaging\Colours  $part
     * @return list<Found> the surest first
     */
    public function find(callable $part, int $width, int $height): array
    {
        $found = [];
        foreach ($this->finder->find($part, $width, $height) as $place) {
            $fitted = $this->poses[$place->class]->inBox($part, $width, $height, $place->shapes[0]->bounds());
            // a place that is sure and nodes that fit say more together than either
            $found[] = new Found($place->class, sqrt($place->confidence * $fitted['confidence']), [$fitted['pose']], $fitted['nodes']);
        }
        usort($found, static fn (Found $a, Found $b): int => $b->confidence <=> $a->confidence);

        return $found;
    }

    public function pack(): string
    {
        $packed = Packed::ofText($this->finder->pack()).pack('v', count($this->poses));
        foreach ($this->poses as $class => $poses) {
            $packed .= Packed::ofText($class).Packed::ofText($poses->pack());
        }

        return $packed;
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $read = new Packed($packed);
        $finder = Regions::unpack($read->text());
        $poses = [];
        for ($k = $read->ints('v', 1)[0]; $k > 0; $k--) {
            $poses[$read->text()] = Poses::unpack($read->text());
        }
        $read->end();

        return new self($finder, $poses);
    }
}
