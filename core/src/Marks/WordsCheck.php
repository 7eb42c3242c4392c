<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;

/** What MarkCheck asks of marks that lie on no plane: spans of a text, and relations between marks. */
final readonly class WordsCheck
{
    public function __construct(private Codebook $codebook)
    {
    }

    /** @throws InvalidValue when it can't be kept: only spans lie in a text, and within it */
    public function admitSpan(Mark $mark, Extent $on, string $path): void
    {
        $span = $mark->geometry;
        if (! $span instanceof Span) {
            throw InvalidValue::at("{$path}.kind", $mark->kind->value, 'a span: this item is a text');
        }
        if ($span->end > ($on->length ?? 0)) {
            throw InvalidValue::at("{$path}.geometry.end", $span->end, 'an offset up to '.($on->length ?? 0).', where the text ends');
        }
    }

    /**
     * @param  list<Codebook>  $earlier  codebooks from the one the mark was made under on
     *
     * @throws InvalidValue when no codebook knows it
     */
    public function admitRelation(Mark $mark, string $path, array $earlier, ?Mark $before): void
    {
        $known = array_filter([$this->codebook, ...$earlier], static fn (Codebook $codebook): bool => isset($codebook->relations[$mark->class]));
        if ($known === [] && $before?->class !== $mark->class) {
            throw InvalidValue::at("{$path}.class", $mark->class, 'a relation of the codebook');
        }
        if ($mark->answers !== []) {
            throw InvalidValue::at("{$path}.answers", $mark->answers, 'nothing: relations are asked nothing');
        }
        if ($mark->partOf !== null) {
            throw InvalidValue::at("{$path}.part_of", $mark->partOf, 'nothing: a relation is a part of nothing');
        }
    }

    /** @return list<Finding> */
    public function span(Mark $mark, LabelClass $class, string $name, Extent $on): array
    {
        $findings = [];
        if (! $class->allows($mark->kind)) {
            $findings[] = new Finding('shape_not_allowed', "{$name}: {$class->name} is not drawn as {$mark->kind->words()}", true, $mark->id);
        }
        if ($mark->geometry instanceof Span && $mark->geometry->end > ($on->length ?? 0)) {
            $findings[] = new Finding('outside', "{$name}: reaches past the end of the text", true, $mark->id);
        }

        return $findings;
    }

    /**
     * @param  list<Mark>  $marks
     * @return list<Finding> about the same words marked twice as the same
     */
    public function doubled(array $marks): array
    {
        $findings = $seen = [];
        foreach ($marks as $mark) {
            if (! $mark->geometry instanceof Span) {
                continue;
            }
            $key = "{$mark->class} {$mark->geometry->start} {$mark->geometry->end}";
            if (isset($seen[$key])) {
                $findings[] = new Finding('duplicate', "the same words are marked twice as {$this->codebook->nameOf($mark->class)}", false, $mark->id);
            }
            $seen[$key] = true;
        }

        return $findings;
    }

    /**
     * @param  list<Mark>  $relations
     * @param  array<string, Mark>  $marks  of the item, by id
     * @return list<Finding>
     */
    public function relations(array $relations, array $marks): array
    {
        $findings = $seen = $numbers = [];
        foreach ($relations as $mark) {
            $numbers[$mark->class] = ($numbers[$mark->class] ?? 0) + 1;
            $relation = $this->codebook->relations[$mark->class] ?? null;
            $name = ($relation->name ?? $mark->class).' '.$numbers[$mark->class];
            $join = $mark->geometry;
            if ($relation === null || ! $join instanceof Join) {
                $findings[] = new Finding('relation_unknown', "{$name}: the codebook has no relation \"{$mark->class}\"", true, $mark->id);

                continue;
            }
            $ends = [$marks[$join->from] ?? null, $marks[$join->to] ?? null];
            if ($ends[0] === null || $ends[1] === null || $ends[0]->kind === Shape::Relation || $ends[1]->kind === Shape::Relation) {
                $findings[] = new Finding('relation_of_nothing', "{$name}: what it joined is gone", true, $mark->id);

                continue;
            }
            if (! $relation->joins($ends[0]->class, $ends[1]->class)) {
                $findings[] = new Finding('relation_not_allowed', "{$name}: does not lead from {$this->codebook->nameOf($ends[0]->class)} to {$this->codebook->nameOf($ends[1]->class)}", true, $mark->id);
            }
            $key = "{$mark->class} {$join->from} {$join->to}";
            if (isset($seen[$key])) {
                $findings[] = new Finding('duplicate', "{$name}: joins the same two marks once more", false, $mark->id);
            }
            $seen[$key] = true;
        }

        return $findings;
    }
}
