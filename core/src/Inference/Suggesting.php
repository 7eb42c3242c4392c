<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Assist\Conversion;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Codebook\Tag;
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
     * @param  array<string, array<string, string>>  $nodes  of each class drawn as a skeleton: keys of its nodes by the model's names
     * @param  float  $from  confidence from which on things are suggested
     * @param  array<string, float>  $own  the same for single classes, by the key of the codebook
     */
    private function __construct(private Codebook $codebook, public Mapping $mapping, public array $nodes, public float $from, public array $own)
    {
    }

    /**
     * @param  array<string, float>  $own
     *
     * @throws InvalidValue when nothing of what the model knows is wanted, or a name is not there
     */
    public static function of(Codebook $codebook, Knows $knows, Mapping $mapping, float $from = 0.5, array $own = []): self
    {
        $questions = array_intersect($knows->questions, array_map(static fn (Attribute $one): string => $one->key, $codebook->itemAttributes()));
        if ($mapping->classes === [] && $mapping->tags === [] && $questions === []) {
            throw InvalidValue::at('classes', [], 'at least one thing the model knows that is one of the project; it knows '.($knows->words() ?: 'nothing by itself: what only answers questions about objects is chosen as what comes then'));
        }
        if ($from < 0 || $from > 1) {
            throw InvalidValue::at('confidence', $from, '0 to 1');
        }
        $mapping->check($codebook, $knows);
        $nodes = [];
        foreach (array_unique($mapping->classes) as $key) {
            $nodes[$key] = $mapping->nodes[$key] ?? Mapping::nodesAlike($codebook, $key, $knows);
        }
        foreach ($own as $key => $least) {
            if ($codebook->class($key) === null || $least < 0 || $least > 1) {
                throw InvalidValue::at("confidence.{$key}", $least, 'a class of this project, 0 to 1');
            }
        }

        return new self($codebook, $mapping, $nodes, $from, $own);
    }

    /**
     * A thing as a suggestion; null when it is not wanted, not sure enough, or of no shape its class may have.
     *
     * @param  string  $id  of the mark
     */
    public function mark(Found $found, string $id): ?Mark
    {
        $key = $this->mapping->classes[$found->class] ?? null;
        $class = $key === null ? null : $this->codebook->class($key);
        if ($class === null || $found->confidence < ($this->own[$class->key] ?? $this->from)) {
            return null;
        }
        $shape = $this->shape($found, $class);

        return $shape === null ? null : Mark::of($id, $class->key, $shape, $this->answers($found, $class), confidence: round($found->confidence, 4));
    }

    /**
     * What is said of the picture as a whole, as suggestions; of tags that exclude each other the surest.
     *
     * @return list<Saying> tags in the order of the codebook, then answers
     */
    public function sayings(Told $told): array
    {
        $sure = [];
        foreach ($told->tags as $theirs => $confidence) {
            $key = $this->mapping->tags[$theirs] ?? null;
            if ($key !== null && $confidence >= $this->from) {
                $sure[$key] = max($sure[$key] ?? 0.0, $confidence);
            }
        }
        $best = $tags = [];
        foreach ($this->codebook->itemTags() as $tag) {
            if (! isset($sure[$tag->key])) {
                continue;
            }
            $group = $tag->group ?? '';
            if ($group !== '' && isset($best[$group])) {
                if ($sure[$tag->key] <= $best[$group]) {
                    continue;
                }
                $tags = array_filter($tags, static fn (Tag $other): bool => $other->group !== $group);
            }
            if ($group !== '') {
                $best[$group] = $sure[$tag->key];
            }
            $tags[] = $tag;
        }
        $sayings = array_map(static fn (Tag $tag): Saying => new Saying($tag->key, null, round($sure[$tag->key], 4)), array_values($tags));
        foreach ($this->codebook->itemAttributes() as $question) {
            [$value, $confidence] = $told->answers[$question->key] ?? ['', 0.0];
            $answer = Answer::of($value);
            if ($confidence >= max($this->from, self::SURE) && $question->objection($answer) === null) {
                $sayings[] = new Saying($question->key, $answer, round($confidence, 4));
            }
        }

        return $sayings;
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
}
