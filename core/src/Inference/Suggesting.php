<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Assist\Conversion;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;

/** What a model finds put into the words of a project: its classes and nodes are matched by name, each thing takes a shape its class may have. */
final readonly class Suggesting
{
    /** px an outline made of a mask may leave out. */
    private const TOLERANCE = 1.0;

    /** From here on an answer is suggested. */
    private const SURE = 0.5;

    /**
     * @param  array<string, string>  $classes  keys of the codebook by the model's names; what is not among them is left out
     * @param  array<string, array<string, string>>  $nodes  of each class drawn as a skeleton: keys of its nodes by the model's names
     * @param  float  $from  confidence from which on things are suggested
     * @param  array<string, float>  $own  the same for single classes, by the key of the codebook
     */
    private function __construct(private Codebook $codebook, public array $classes, public array $nodes, public float $from, public array $own)
    {
    }

    /**
     * @param  array<string, string>  $classes
     * @param  array<string, float>  $own
     *
     * @throws InvalidValue when nothing of what the model knows is wanted, or a class is not there
     */
    public static function of(Codebook $codebook, Knows $knows, array $classes, float $from = 0.5, array $own = []): self
    {
        if ($classes === []) {
            throw InvalidValue::at('classes', [], 'at least one class of the model that is one of the project; it knows '.implode(', ', $knows->classes));
        }
        if ($from < 0 || $from > 1) {
            throw InvalidValue::at('confidence', $from, '0 to 1');
        }
        $nodes = [];
        foreach ($classes as $theirs => $key) {
            if (! in_array($theirs, $knows->classes, true)) {
                throw InvalidValue::at('classes', $theirs, 'a class of the model: '.implode(', ', $knows->classes));
            }
            $class = $codebook->class($key) ?? throw InvalidValue::at('classes', $key, 'the key of a class of this project');
            $skeleton = $codebook->skeletonOf($class);
            if ($skeleton !== null) {
                foreach ($skeleton->nodes as $node) {
                    foreach ($knows->nodes as $name) {
                        if (self::same($name, $node->key) || self::same($name, $node->name)) {
                            $nodes[$key][$name] = $node->key;
                        }
                    }
                }
            }
        }
        foreach ($own as $key => $least) {
            if ($codebook->class($key) === null || $least < 0 || $least > 1) {
                throw InvalidValue::at("confidence.{$key}", $least, 'a class of this project, 0 to 1');
            }
        }

        return new self($codebook, $classes, $nodes, $from, $own);
    }

    /**
     * Classes of the model that are called like one of the project.
     *
     * @return array<string, string> key of the codebook by the model's name
     */
    public static function alike(Codebook $codebook, Knows $knows): array
    {
        $classes = [];
        foreach ($knows->classes as $theirs) {
            foreach ($codebook->classes as $class) {
                if (self::same($theirs, $class->key) || self::same($theirs, $class->name)) {
                    $classes[$theirs] = $class->key;

                    break;
                }
            }
        }

        return $classes;
    }

    /**
     * A thing as a suggestion; null when it is not wanted, not sure enough, or of no shape its class may have.
     *
     * @param  string  $id  of the mark
     */
    public function mark(Found $found, string $id): ?Mark
    {
        $key = $this->classes[$found->class] ?? null;
        $class = $key === null ? null : $this->codebook->class($key);
        if ($class === null || $found->confidence < ($this->own[$class->key] ?? $this->from)) {
            return null;
        }
        $shape = $this->shape($found, $class);

        return $shape === null ? null : Mark::of($id, $class->key, $shape, $this->answers($found, $class), confidence: round($found->confidence, 4));
    }

    /**
     * Answers that are asked of the class, of a kind it may have, and likelier than not.
     *
     * @return array<string, Answer>
     */
    private function answers(Found $found, LabelClass $class): array
    {
        $answers = [];
        foreach ($this->codebook->attributesOf($class) as $question) {
            [$value, $sure] = $found->answers[$question->key] ?? ['', 0.0];
            $answer = Answer::of($value);
            if ($sure >= self::SURE && $question->objection($answer) === null) {
                $answers[$question->key] = $answer;
            }
        }

        return $answers;
    }

    private function shape(Found $found, LabelClass $class): ?Flat
    {
        // the finest first: a mask says more than the box round it
        foreach (array_reverse($found->shapes) as $shape) {
            if ($shape instanceof Pose) {
                $pose = $class->allows(Shape::Skeleton) ? $this->renamed($shape, $class) : null;
                if ($pose !== null) {
                    return $pose;
                }

                continue;
            }
            if ($class->allows(Shape::of($shape))) {
                return $shape;
            }
            if ($shape instanceof Mask && $class->allows(Shape::Polygon)) {
                return Conversion::outline($shape, self::TOLERANCE);
            }
        }
        foreach ($found->shapes as $shape) {
            if (! $shape instanceof Pose && $class->allows(Shape::Box)) {
                return $shape->bounds();
            }
        }

        return null;
    }

    /** A pose with the nodes of the class; null when not one of them is known. */
    private function renamed(Pose $pose, LabelClass $class): ?Pose
    {
        $nodes = [];
        foreach (Fields::of($pose->toArray())->object('nodes')->all() as $name => $node) {
            $key = $this->nodes[$class->key][$name] ?? null;
            if ($key !== null) {
                $nodes[$key] = $node;
            }
        }

        return $nodes === [] ? null : Pose::of($nodes);
    }

    /** Whether two names are one, apart from case and what joins their words. */
    private static function same(string $a, string $b): bool
    {
        $plain = static fn (string $name): string => mb_strtolower((string) preg_replace('/[\s_\-]+/u', '', $name));

        return $plain($a) === $plain($b);
    }
}
