<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;

/** Puts marks, and what is said of items, into the words of a new codebook. */
final readonly class Remap
{
    public function __construct(private Translation $translation)
    {
    }

    /** The mark in the new words; null when its class, or every node of it, is taken away. What has no place is kept as it is. */
    public function mark(Mark $mark): ?Mark
    {
        $class = ($mark->kind === Shape::Relation ? $this->translation->relation($mark->class) : $this->translation->class($mark->class))[0];
        $geometry = $this->geometry($mark->class, $mark->geometry);
        if ($class === null || $geometry === null) {
            return null;
        }
        $after = Mark::of($mark->id, $class, $geometry, $this->answers($mark->class, $mark->answers), $mark->stack, $mark->author, $mark->partOf, $mark->flags);

        return $mark->isTrack() ? $after->through($mark->place, $mark->there, array_values(array_filter(array_map(fn (Key $key): ?Key => $this->key($mark->class, $key), $mark->keys)))) : $after;
    }

    /** A key of a track of a class in the new words; null when nothing of it is left. */
    public function key(string $class, Key $key): ?Key
    {
        $geometry = $key->geometry === null ? null : $this->geometry($class, $key->geometry);
        $answers = $this->answers($class, $key->answers);

        return $geometry === null && $answers === [] ? null : Key::of($key->place, $geometry, $answers, $key->hidden, $key->source, $key->confidence, $key->revision);
    }

    /** The geometry in the new words; null when every node of it is taken away. */
    private function geometry(string $class, Geometry $geometry): ?Geometry
    {
        if (! $geometry instanceof Pose) {
            return $geometry;
        }
        $nodes = [];
        foreach ($geometry->nodes as $key => $node) {
            $to = $this->translation->node($class, (string) $key)[0];
            if ($to !== null) {
                $nodes[$to] ??= $node;
            }
        }

        return $nodes === [] ? null : Pose::of($nodes);
    }

    /**
     * The fields an edit changes. What is taken away in the new codebook, or has no place there, stays in the old words: it was
     * done before its author could know, so it is kept for the check to find.
     *
     * @param  array<string, mixed>  $data
     * @param  bool  $known  the geometry has been checked before
     * @return array<string, mixed>
     *
     * @throws InvalidValue when answers come without the class they belong to
     */
    public function markData(string $id, array $data, bool $known = false): array
    {
        $class = $data['class'] ?? null;
        if (! is_string($class)) {
            if (isset($data['answers']) || isset($data['attribute'])) {
                throw InvalidValue::at('data.class', $class, 'the class too, since the edit was made under an earlier codebook');
            }

            return $data;
        }
        if (isset($data['kind'], $data['geometry'])) {
            $mark = $this->mark(Mark::fromArray(['id' => $id] + $data, 'data', $known));
            $after = $mark?->toArray();

            return $after === null ? $data : ['answers' => $after['answers'] ?? []] + $after + $data;
        }
        // (an edit of a relation names its kind, since it says where it leads)
        $data['class'] = $this->translation->class($class)[0] ?? $class;
        if (isset($data['answers'])) {
            $data['answers'] = array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers($class, Mark::answers(Fields::of($data, 'data'))));
        }

        return $data;
    }

    /**
     * The fields of an edit of a key, which names the class of its mark where it answers anything or has nodes.
     *
     * @param  array<string, mixed>  $data
     * @return array<string, mixed>
     *
     * @throws InvalidValue when answers come without the class they belong to
     */
    public function keyData(array $data): array
    {
        $fields = Fields::of($data, 'data');
        if (! $fields->has('key')) {
            return $data;
        }
        $class = $fields->optionalString('class', 64);
        $key = $fields->object('key');
        if ($class === null) {
            return $key->has('answers') ? throw InvalidValue::at('data.class', $class, 'the class too, since the edit was made under an earlier codebook') : $data;
        }
        $kept = $key->all();
        if ($key->has('answers')) {
            $kept['answers'] = array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers($class, Mark::answers($key)));
        }
        if ($key->has('geometry') && $key->object('geometry')->has('nodes')) {
            $kept['geometry'] = ($this->geometry($class, Pose::fromFields($key->object('geometry'), 'data.key.geometry')) ?? throw InvalidValue::at('data.key.geometry', 'nodes', 'a node the skeleton still has'))->toArray();
        }

        return ['class' => $this->translation->class($class)[0] ?? $class, 'key' => $kept] + $data;
    }

    /**
     * @param  array<string, mixed>  $data
     * @return array<string, mixed>
     */
    public function saidData(array $data): array
    {
        $said = $this->said(ItemAnswers::fromArray($data, 'data'))->toArray();

        return ['kind' => ItemAnswers::KIND, 'answers' => $said['answers'] ?? [], 'tags' => $said['tags'] ?? []] + (isset($data['stretches']) ? ['stretches' => $said['stretches'] ?? []] : []);
    }

    public function said(ItemAnswers $said): ItemAnswers
    {
        $tags = array_filter(array_map(fn (string $tag): ?string => $this->translation->tag($tag)[0], $said->tags), is_string(...));

        $stretches = [];
        foreach ($said->stretches as $stretch) {
            if ($stretch->answer === null) {
                $tag = $this->translation->tag($stretch->key)[0];
                $after = $tag === null ? null : Stretch::tag($tag, $stretch->first, $stretch->last);
            } else {
                [$key, $value] = $this->translation->answer(null, $stretch->key, $stretch->answer);
                $after = $key === null || $value === null ? null : Stretch::answer($key, $value, $stretch->first, $stretch->last);
            }
            // where two become one, what was said first of a place stands
            if ($after !== null && array_filter($stretches, static fn (Stretch $other): bool => $other->subject() === $after->subject() && $other->first <= $after->last && $after->first <= $other->last) === []) {
                $stretches[] = $after;
            }
        }

        return ItemAnswers::of($this->answers(null, $said->answers), array_values(array_unique($tags)), $stretches);
    }

    /**
     * @param  array<string, Answer>  $answers
     * @return array<string, Answer>
     */
    private function answers(?string $class, array $answers): array
    {
        $after = [];
        foreach ($answers as $question => $answer) {
            [$key, $value] = $this->translation->answer($class, $question, $answer);
            // where two questions become one, the first answer stands
            if ($key !== null && $value !== null) {
                $after[$key] ??= $value;
            }
        }

        return $after;
    }
}
