<?php

declare(strict_types=1);

namespace Skeno\Core\Trial;

use Skeno\Core\Fields;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Inference\Saying;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;

/** What a model found on one item held against what is truly there, class by class. */
final readonly class Matched
{
    /** From how alike on two shapes are one thing, for the average precision: 0.5, 0.55 … 0.95. */
    public const STEPS = [0.5, 0.55, 0.6, 0.65, 0.7, 0.75, 0.8, 0.85, 0.9, 0.95];

    /** From how alike on what is not to be judged takes a thing that was found with it. */
    private const UNKNOWN = 0.2;

    /**
     * @param  array<string, int>  $there  things by class
     * @param  array<string, list<array{confidence: float, alike: float, hits: int}>>  $found  by class, the surest first; alike: to the thing it took at the first of STEPS, 0 without one; hits: a bit a step
     */
    private function __construct(public array $there, public array $found)
    {
    }

    /**
     * The surest of what was found takes the truth most like it that is left (as in Everingham et al., The PASCAL Visual Object Classes, 2010),
     * for each of STEPS anew. What lies on something that is not to be judged, and on nothing true, is not counted.
     *
     * @param  list<array{class: string, confidence: float, geometry: Geometry}>  $found
     * @param  list<array{class: string, geometry: Geometry}>  $truth
     * @param  list<Geometry>  $unknown
     */
    public static function of(array $found, array $truth, array $unknown, int $width, int $height): self
    {
        usort($found, static fn (array $a, array $b): int => $b['confidence'] <=> $a['confidence']);
        $there = $all = [];
        foreach ($truth as $thing) {
            $there[$thing['class']] = ($there[$thing['class']] ?? 0) + 1;
        }
        $taken = [];
        foreach ($found as $one) {
            $likes = [];
            foreach ($truth as $t => $thing) {
                if ($thing['class'] === $one['class']) {
                    $alike = Alike::of($one['geometry'], $thing['geometry'], $width, $height);
                    if ($alike >= self::STEPS[0]) {
                        $likes[$t] = $alike;
                    }
                }
            }
            arsort($likes);
            $hits = 0;
            $best = 0.0;
            foreach (self::STEPS as $step => $least) {
                foreach ($likes as $t => $alike) {
                    if ($alike >= $least && ! isset($taken[$step][$t])) {
                        $taken[$step][$t] = true;
                        $hits |= 1 << $step;
                        $best = $step === 0 ? $alike : $best;

                        break;
                    }
                }
            }
            if ($hits !== 0 || ! self::onUnknown($one['geometry'], $unknown)) {
                $all[$one['class']][] = ['confidence' => $one['confidence'], 'alike' => $best, 'hits' => $hits];
            }
        }

        return new self($there, $all);
    }

    /**
     * What is suggested to be said of an item, held against what is said of it: tags as `tag:KEY`, answers as `question:KEY`. Of a question nobody has
     * answered nothing is known, while a tag that is not there is not true.
     *
     * @param  list<Saying>  $suggested
     */
    public static function ofWords(array $suggested, ItemAnswers $truth): self
    {
        $there = $found = [];
        foreach ($truth->tags as $tag) {
            $there["tag:{$tag}"] = 1;
        }
        foreach ($truth->answers as $key => $answer) {
            $there["question:{$key}"] = 1;
        }
        foreach ($suggested as $one) {
            $answer = $truth->answers[$one->key] ?? null;
            if ($one->answer !== null && $answer === null) {
                continue;
            }
            $right = $one->answer === null ? in_array($one->key, $truth->tags, true) : $answer !== null && $one->answer->equals($answer);
            $found[($one->answer === null ? 'tag:' : 'question:').$one->key][] = ['confidence' => $one->confidence ?? 0.0, 'alike' => $right ? 1.0 : 0.0, 'hits' => $right ? (1 << count(self::STEPS)) - 1 : 0];
        }

        return new self($there, $found);
    }

    /** @return array{there: array<string, int>, found: array<string, list<array{confidence: float, alike: float, hits: int}>>} */
    public function toArray(): array
    {
        return ['there' => $this->there, 'found' => array_map(static fn (array $all): array => array_map(static fn (array $one): array => ['confidence' => round($one['confidence'], 4), 'alike' => round($one['alike'], 4), 'hits' => $one['hits']], $all), $this->found)];
    }

    /**
     * As toArray gave it.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data): self
    {
        $in = Fields::of($data, 'matched');
        $there = $found = [];
        foreach ($in->map('there') as $class => $_) {
            $there[(string) $class] = $in->object('there')->int((string) $class, 0);
        }
        foreach ($in->map('found') as $class => $_) {
            $found[(string) $class] = array_map(static fn (Fields $one): array => ['confidence' => $one->number('confidence'), 'alike' => $one->number('alike'), 'hits' => $one->int('hits', 0)], $in->object('found')->objects((string) $class));
        }

        return new self($there, $found);
    }

    /** @param  list<Geometry>  $unknown */
    private static function onUnknown(Geometry $found, array $unknown): bool
    {
        foreach ($unknown as $shape) {
            if ($found instanceof Flat && $shape instanceof Flat && $found->bounds()->iou($shape->bounds()) > self::UNKNOWN) {
                return true;
            }
        }

        return false;
    }
}
