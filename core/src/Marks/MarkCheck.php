<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\BoxIndex;
use Skeno\Core\Geometry\Cuboid;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/** The rules every mark on an item must keep before it is submitted, accepted or taken in as a label. */
final readonly class MarkCheck
{
    /** How far past the edge a shape may reach, in px: what rounding to whole pixels by other writers leaves. */
    public const EDGE_TOLERANCE = 0.5;

    /** Two boxes of one class with at least this IoU are the same object drawn twice. */
    public const DUPLICATE_IOU = 0.9;

    public function __construct(private Codebook $codebook)
    {
    }

    /**
     * What can't even be kept, unlike a slip of the hand that is kept and found later: a class the codebook has not, a mask of
     * another size than the picture, nodes or points outside it or unknown to the skeleton.
     *
     * Words the mark had before, or of an earlier codebook it was made under, are kept too: the check finds them.
     *
     * @param  list<Codebook>  $earlier  codebooks from the one the mark was made under on
     * @param  ?Mark  $before  the mark as it is kept already
     *
     * @throws InvalidValue
     */
    public function admit(Mark $mark, Extent $on, string $path = 'data', array $earlier = [], ?Mark $before = null): void
    {
        self::axis($mark, $on, $path);
        $words = new WordsCheck($this->codebook);
        if ($mark->kind === Shape::Relation) {
            $words->admitRelation($mark, $path, $earlier, $before);

            return;
        }
        /** @var array<int, array{Codebook, LabelClass}> $known */
        $known = [];
        foreach ([$this->codebook, ...$earlier] as $codebook) {
            $class = $codebook->class($mark->class);
            if ($class !== null) {
                $known[] = [$codebook, $class];
            }
        }
        if ($known === [] && $before?->class !== $mark->class) {
            throw InvalidValue::at("{$path}.class", $mark->class, 'a class of the codebook');
        }
        if ($mark->partOf === $mark->id) {
            throw InvalidValue::at("{$path}.part_of", $mark->partOf, 'another mark');
        }
        if ($on->isText()) {
            $words->admitSpan($mark, $on, $path);

            return;
        }
        if ($on->isSpace) {
            if (! $mark->geometry instanceof Cuboid) {
                throw InvalidValue::at("{$path}.kind", $mark->kind->value, 'cuboid: in a cloud nothing else is drawn');
            }

            return;
        }
        $plane = $on->at($mark->place);
        [$width, $height] = [$plane->width, $plane->height];
        $geometry = $mark->flat();
        if ($geometry instanceof Mask && ($geometry->width !== $width || $geometry->height !== $height)) {
            throw InvalidValue::at("{$path}.geometry.size", "{$geometry->width} × {$geometry->height}", "{$width} × {$height}, the size of the ".($on->sheets === null ? 'picture' : 'page'));
        }
        if (($geometry instanceof Pose || $geometry instanceof PointSet) && $geometry->bounds()->overhang($width, $height) > self::EDGE_TOLERANCE) {
            throw InvalidValue::at("{$path}.geometry", 'a point outside the '.($on->sheets === null ? 'picture' : 'page'), "points from 0, 0 to {$width}, {$height}");
        }
        if ($geometry instanceof Pose) {
            $nodes = $before?->geometry instanceof Pose ? $before->geometry->nodes : [];
            foreach ($known as [$codebook, $class]) {
                $nodes += $codebook->skeletonOf($class)->nodes ?? [];
            }
            if ($nodes === []) {
                throw InvalidValue::at("{$path}.class", $mark->class, 'a class with a skeleton');
            }
            foreach (array_keys(array_diff_key($geometry->nodes, $nodes)) as $key) {
                throw InvalidValue::at("{$path}.geometry.nodes.{$key}", $key, 'a node of the skeleton of '.($known === [] ? $mark->class : $known[0][1]->name));
            }
        }
    }

    /** Whether there is anything to draw on an item: on a text spans, in a cloud cuboids, on a plane what is flat. */
    public function draws(Extent $on): bool
    {
        foreach ($this->codebook->classes as $class) {
            foreach ($class->shapes as $shape) {
                if ($on->isText() ? $shape === Shape::Span : ($on->isSpace ? $shape === Shape::Cuboid : $shape->isFlat())) {
                    return true;
                }
            }
        }

        return false;
    }

    /** A mark on a page of a document has that page as its place; one on another item with an axis is a track along it, and one on an item without is none. */
    private static function axis(Mark $mark, Extent $on, string $path): void
    {
        $places = $on->places;
        if ($places !== null && ! $on->hasTracks()) {
            if ($mark->there !== null || $mark->keys !== []) {
                throw InvalidValue::at("{$path}.stretches", $mark->there?->toArray(), 'nothing: marks on pages do not move');
            }
            // a relation joins marks, wherever they are
            if ($mark->kind === Shape::Relation ? $mark->place !== null : $mark->place === null || $mark->place >= $places) {
                throw InvalidValue::at("{$path}.place", $mark->place, $mark->kind === Shape::Relation ? 'nothing' : 'a page from 0 to '.($places - 1));
            }

            return;
        }
        if ($places === null) {
            if ($mark->place !== null || $mark->there !== null || $mark->keys !== []) {
                throw InvalidValue::at($mark->there === null ? "{$path}.place" : "{$path}.stretches", $mark->place ?? $mark->there?->toArray(), 'nothing: this item has no axis');
            }

            return;
        }
        $last = $mark->there?->last() ?? throw InvalidValue::at("{$path}.stretches", $mark->there?->toArray(), 'the stretches in which the object is there');
        if ($last >= $places) {
            throw InvalidValue::at("{$path}.stretches", $last, 'places from 0 to '.($places - 1));
        }
        if ($mark->place === null || $mark->place >= $places) {
            throw InvalidValue::at("{$path}.place", $mark->place, 'a place from 0 to '.($places - 1));
        }
    }

    /**
     * Refuses a key that can't be kept of a track as it is.
     *
     * @param  Mark  $track  as it is kept
     * @param  list<Codebook>  $earlier  codebooks from the one the edit was made under on
     *
     * @throws InvalidValue
     */
    public function admitKey(Key $key, Mark $track, Extent $on, string $path = 'data', array $earlier = []): void
    {
        $places = $on->places ?? throw InvalidValue::at("{$path}.place", $key->place, 'nothing: this item has no axis');
        if ($key->place >= $places) {
            throw InvalidValue::at("{$path}.place", $key->place, 'a place from 0 to '.($places - 1));
        }
        if ($key->geometry !== null) {
            $this->admit($track->as($key->geometry), $on, "{$path}.key", $earlier, $track);
        }
    }

    /**
     * What nobody could see or correct on the screen does not come in: a shape of no size, or wholly outside its picture.
     *
     * @throws InvalidValue
     */
    public static function mustBeVisible(Mark $mark, Extent $on, string $path): void
    {
        $objection = self::unseen($mark, $on);
        if ($objection !== null) {
            throw InvalidValue::at("{$path}.geometry", $objection, $on->isText() ? 'words of the text' : "a {$mark->kind->words()} with a size, on the ".($on->sheets === null ? 'picture' : 'page'));
        }
    }

    /** Why a mark can't be seen on its item: it has no size, or lies wholly outside; null when it can. */
    public static function unseen(Mark $mark, Extent $on): ?string
    {
        $geometry = $mark->geometry;
        if ($geometry instanceof Cuboid) {
            return $geometry->isEmpty() ? 'no size' : null;
        }
        if ($geometry instanceof Span || ! $geometry instanceof Flat) {
            return $geometry instanceof Span && $geometry->start >= ($on->length ?? 0) ? 'a place outside the text' : null;
        }
        $box = $geometry->bounds();

        return match (true) {
            $geometry->isEmpty() => $geometry instanceof Mask ? 'no pixel' : sprintf('no size (%s × %s px)', round($box->width, 2), round($box->height, 2)),
            $box->width > 0 && $box->height > 0 && $box->liesOutside($on->at($mark->place)->width, $on->at($mark->place)->height) => $on->sheets === null ? 'a place outside the picture' : 'a place outside the page',
            default => null,
        };
    }

    /**
     * @param  list<Mark>  $marks  all marks of the item's layer
     * @return list<Finding> in the order of the marks
     */
    public function item(array $marks, Extent $on, ?ItemAnswers $said = null): array
    {
        $words = new WordsCheck($this->codebook);
        $findings = $numbers = $boxes = $byId = [];
        foreach ($marks as $mark) {
            $byId[$mark->id] = $mark;
        }
        $relations = array_values(array_filter($marks, static fn (Mark $mark): bool => $mark->kind === Shape::Relation));
        $marks = $relations === [] ? $marks : array_values(array_filter($marks, static fn (Mark $mark): bool => $mark->kind !== Shape::Relation));
        foreach ($marks as $mark) {
            $class = $this->codebook->class($mark->class);
            $numbers[$mark->class] = ($numbers[$mark->class] ?? 0) + 1;
            $name = ($class->name ?? $mark->class).' '.$numbers[$mark->class].($on->sheets === null || $mark->place === null ? '' : ' (page '.($mark->place + 1).')');
            if ($class === null) {
                $findings[] = new Finding('class_unknown', "{$name}: the codebook has no class \"{$mark->class}\"", true, $mark->id);

                continue;
            }
            array_push(
                $findings,
                ...match (true) {
                    $mark->geometry instanceof Cuboid => $this->keys($mark, $class, $name, $on),
                    ! $mark->geometry instanceof Flat => $words->span($mark, $class, $name, $on),
                    $mark->isTrack() => $this->keys($mark, $class, $name, $on),
                    default => $this->geometry($mark, $class, $name, $on),
                },
                ...$this->partOf($mark, $class, $name, $byId),
                ...$this->answers($answers = self::begun($mark), $this->codebook->attributesOf($class), $this->codebook->asked($class, $answers), "{$name}: ", $class->name, $mark->id),
            );
            // (tracks lie over each other at some place, not by their faces)
            if ($mark->geometry instanceof Box && ! $mark->isTrack()) {
                $boxes["{$mark->class} {$mark->place}"][$mark->id] = $mark->geometry;
            }
        }
        array_push($findings, ...$words->doubled($marks), ...$words->relations($relations, $byId));
        foreach ($boxes as $key => $ofClass) {
            foreach (BoxIndex::coinciding($ofClass, self::DUPLICATE_IOU) as [, $second, $iou]) {
                $name = $this->codebook->nameOf(explode(' ', $key)[0]);
                $findings[] = new Finding('duplicate', sprintf('two boxes of %s nearly coincide (IoU %.2f)', $name, $iou), false, (string) $second);
            }
        }
        $limit = $this->codebook->maxObjects;
        if ($limit !== null && count($marks) > $limit) {
            $findings[] = new Finding('too_many_objects', count($marks)." objects; the codebook allows {$limit} per item");
        }
        // an item without objects is for "nothing there" to answer, not for this limit
        if ($marks !== [] && count($marks) < ($this->codebook->minObjects ?? 0)) {
            $findings[] = new Finding('too_few_objects', count($marks)." objects; the codebook asks for {$this->codebook->minObjects} per item");
        }

        return [...$findings, ...($said === null ? [] : $this->said($said)), ...match (true) {
            $said === null || $on->places === null => [],
            $on->hasTracks() => $this->along($said, $on),
            default => $this->pages($said, $on->places),
        }];
    }

    /** @return list<Finding> about the answers and tags of the item as a whole */
    public function said(ItemAnswers $said): array
    {
        $findings = $this->answers($said->answers, $this->codebook->itemAttributes(), $this->codebook->askedOfItem($said->answers), '', 'the item', null);
        $groups = [];
        $known = 0;
        foreach ($said->tags as $key) {
            $tag = $this->codebook->tags[$key] ?? null;
            if ($tag === null) {
                $findings[] = new Finding('tag_unknown', "the codebook has no tag \"{$key}\"");

                continue;
            }
            $known++;
            if ($tag->group !== null && isset($groups[$tag->group])) {
                $findings[] = new Finding('tags_exclude', "{$groups[$tag->group]} and {$tag->name} exclude each other");
            }
            $groups[$tag->group ?? ''] = $tag->name;
        }
        if ($this->codebook->maxTags !== null && $known > $this->codebook->maxTags) {
            $findings[] = new Finding('too_many_tags', "{$known} tags; the codebook allows {$this->codebook->maxTags}");
        }
        if ($known < ($this->codebook->minTags ?? 0)) {
            $findings[] = new Finding('too_few_tags', ($known === 1 ? '1 tag' : "{$known} tags")."; the codebook asks for {$this->codebook->minTags}");
        }

        return $findings;
    }

    /**
     * Refuses what can't be said of an item.
     *
     * @param  ?int  $places  on its axis; null: it has none
     *
     * @throws InvalidValue
     */
    public static function admitSaid(ItemAnswers $said, ?int $places, string $path = 'data'): void
    {
        foreach ($said->stretches as $i => $stretch) {
            if ($places === null || $stretch->last >= $places) {
                throw InvalidValue::at("{$path}.stretches[{$i}]", $stretch->toArray(), $places === null ? 'nothing: this item has no axis' : 'places from 0 to '.($places - 1));
            }
        }
    }

    /** @return list<Finding> about what is said along the axis of an item: every question that is required has an answer at every place */
    public function along(ItemAnswers $said, Extent $on): array
    {
        [$places, $word] = [$on->places ?? 1, $on->word];
        $findings = $of = [];
        foreach ($said->stretches as $stretch) {
            $at = $stretch->first + 1;
            if ($stretch->answer === null) {
                $tag = $this->codebook->tags[$stretch->key] ?? null;
                if ($tag === null) {
                    $findings[] = new Finding('tag_unknown', "the codebook has no tag \"{$stretch->key}\" (from {$word} {$at})", true, null, null, $stretch->first);

                    continue;
                }
                foreach ($tag->group === null ? [] : $said->stretches as $other) {
                    $against = $other->isTag() && $other->key !== $stretch->key ? $this->codebook->tags[$other->key] ?? null : null;
                    if ($against !== null && $against->group === $tag->group && $other->first <= $stretch->first && $stretch->first <= $other->last) {
                        $findings[] = new Finding('tags_exclude', "{$against->name} and {$tag->name} exclude each other (at {$word} {$at})", true, null, null, $stretch->first);
                    }
                }

                continue;
            }
            $question = $this->codebook->attributes[$stretch->key] ?? null;
            if ($question === null || $question->scope !== Scope::Frame) {
                $findings[] = new Finding('answer_unknown', "no question \"{$stretch->key}\" is asked of {$word}s (from {$word} {$at})", true, null, $stretch->key, $stretch->first);
            } elseif (($objection = $question->objection($stretch->answer)) !== null) {
                $findings[] = new Finding('answer_not_allowed', "{$objection} (from {$word} {$at})", true, null, $stretch->key, $stretch->first);
            }
            $of[$stretch->key][] = [$stretch->first, $stretch->last];
        }
        foreach ($this->codebook->frameAttributes() as $question) {
            $gaps = $question->required ? Places::stretch(0, $places - 1)->without(Places::fromArray($of[$question->key] ?? []))->stretches : [];
            if ($gaps !== []) {
                [$first, $last] = $gaps[0];
                $more = count($gaps) - 1;
                $findings[] = new Finding('answer_missing', "{$question->name} is not answered ".($first === $last ? "at {$word} ".($first + 1) : "from {$word} ".($first + 1).' to '.($last + 1)).($more > 0 ? " and at {$more} more ".($more === 1 ? 'place' : 'places') : ''), true, null, $question->key, $first);
            }
        }

        return $findings;
    }

    /** @return list<Finding> about what is said of each page of a document: every question that is required has an answer on every page it is asked of */
    public function pages(ItemAnswers $said, int $pages): array
    {
        $answers = $tags = [];
        foreach ($said->stretches as $stretch) {
            for ($page = $stretch->first; $page <= min($stretch->last, $pages - 1); $page++) {
                if ($stretch->answer === null) {
                    $tags[$page][] = $stretch->key;
                } else {
                    $answers[$page][$stretch->key] = $stretch->answer;
                }
            }
        }
        $first = $count = [];
        for ($page = 0; $page < $pages; $page++) {
            $faults = $this->answers($answers[$page] ?? [], $this->codebook->pageAttributes(), $this->codebook->askedOfPage($answers[$page] ?? []), '', 'the page', null);
            $groups = [];
            foreach ($tags[$page] ?? [] as $key) {
                $tag = $this->codebook->tags[$key] ?? null;
                if ($tag === null) {
                    $faults[] = new Finding('tag_unknown', "the codebook has no tag \"{$key}\"");
                } elseif ($tag->group !== null && isset($groups[$tag->group])) {
                    $faults[] = new Finding('tags_exclude', "{$groups[$tag->group]} and {$tag->name} exclude each other");
                }
                $groups[$tag->group ?? ''] = $tag->name ?? $key;
            }
            foreach ($faults as $finding) {
                $first[$finding->message] ??= [$page, $finding];
                $count[$finding->message] = ($count[$finding->message] ?? 0) + 1;
            }
        }
        $findings = [];
        foreach ($first as $message => [$page, $finding]) {
            $more = $count[$message] - 1;
            $findings[] = new Finding($finding->code, "{$message}, on page ".($page + 1).($more > 0 ? " and {$more} more" : ''), $finding->stops, null, $finding->attribute, $page);
        }

        return $findings;
    }

    /**
     * What is answered of a mark; of a track as it stands where it begins, since what varies has to be said from there on.
     *
     * @return array<string, Answer>
     */
    private static function begun(Mark $mark): array
    {
        if ($mark->there === null || $mark->there->isEmpty()) {
            return $mark->answers;
        }
        $answers = $mark->answers;
        $track = $mark->track();
        foreach ($track->questions() as $question) {
            $answer = $track->answer($question, $mark->there->stretches[0][0]);
            if ($answer !== null) {
                $answers[$question] = $answer;
            }
        }

        return $answers;
    }

    /** Whether there is anything to say about a key of a track by itself. */
    public function isFaulty(Key $key, Mark $track, Extent $on): bool
    {
        $class = $this->codebook->class($track->class);

        return $class !== null && $key->geometry !== null && (self::isHiddenWrongly($key, $class) || $this->geometry($track->as($key->geometry), $class, '', $on) !== []);
    }

    private static function isHiddenWrongly(Key $key, LabelClass $class): bool
    {
        return $class->absent && $key->hidden;
    }

    /** @return list<Finding> about the keys of a track: of each fault the first place, with how often it is there */
    private function keys(Mark $mark, LabelClass $class, string $name, Extent $on): array
    {
        $first = $count = [];
        foreach ($mark->track()->keys as $place => $key) {
            $faults = $key->geometry === null ? [] : $this->geometry($mark->as($key->geometry), $class, $name, $on);
            if (self::isHiddenWrongly($key, $class)) {
                $faults[] = new Finding('hidden_not_kept', "{$name} is hidden; {$class->name} is absent where it can't be seen", true, $mark->id);
            }
            foreach ($key->answers as $question => $answer) {
                $attribute = in_array($question, $class->attributes, true) ? $this->codebook->attributes[$question] ?? null : null;
                $objection = $attribute === null ? "{$class->name} has no question \"{$question}\"" : ($attribute->varies ? $attribute->objection($answer) : "{$attribute->name} does not change along a clip");
                if ($objection !== null) {
                    $faults[] = new Finding('answer_not_allowed', "{$name}: {$objection}", true, $mark->id, $question);
                }
            }
            foreach ($faults as $finding) {
                $first[$finding->code] ??= [$place, $finding];
                $count[$finding->code] = ($count[$finding->code] ?? 0) + 1;
            }
        }
        $findings = [];
        foreach ($first as $code => [$place, $finding]) {
            $more = $count[$code] - 1;
            $findings[] = new Finding($finding->code, "{$finding->message}, at {$on->word} ".($place + 1).($more > 0 ? " and {$more} more" : ''), $finding->stops, $finding->mark, $finding->attribute, $place);
        }

        return $findings;
    }

    /** @return list<Finding> */
    private function geometry(Mark $mark, LabelClass $class, string $name, Extent $on): array
    {
        if ($mark->geometry instanceof Cuboid) {
            return self::cuboid($mark, $mark->geometry, $class, $name);
        }
        $plane = $on->at($mark->place);
        [$width, $height] = [$plane->width, $plane->height];
        $paper = $on->sheets === null ? 'picture' : 'page';
        $kind = $mark->kind->words();
        $box = $mark->flat()->bounds();
        $findings = [];
        if (! $class->allows($mark->kind)) {
            $findings[] = new Finding('shape_not_allowed', "{$name}: {$class->name} is not drawn as {$kind}", true, $mark->id);
        }
        $overhang = $box->overhang($width, $height);
        if ($mark->geometry->isEmpty()) {
            $findings[] = new Finding('empty', $mark->geometry instanceof Mask ? "{$name}: the mask has no pixel" : sprintf('%s: the %s has no size (%s × %s px)', $name, $kind, round($box->width, 2), round($box->height, 2)), true, $mark->id);
        } elseif ($box->width > 0 && $box->height > 0 && $box->liesOutside($width, $height)) {
            $findings[] = new Finding('outside', "{$name}: the {$kind} lies outside the {$paper}", true, $mark->id);
        } elseif ($overhang > self::EDGE_TOLERANCE) {
            $findings[] = new Finding('outside', sprintf('%s: the %s reaches %s px past the edge of the %s', $name, $kind, round($overhang, 1), $paper), true, $mark->id);
        } elseif ($class->minSize !== null && $mark->flat()->area() > 0 && min($box->width, $box->height) < $class->minSize) {
            $findings[] = new Finding('too_small', sprintf('%s: %s px on the shorter side; the rule asks for %s', $name, round(min($box->width, $box->height), 1), $class->minSize), false, $mark->id);
        }
        if ($mark->geometry instanceof Pose) {
            foreach (array_diff_key($mark->geometry->nodes, $this->codebook->skeletonOf($class)->nodes ?? []) as $key => $node) {
                $findings[] = new Finding('node_unknown', "{$name}: the skeleton has no node \"{$key}\"", true, $mark->id);
            }
        }
        $count = match (true) {
            $mark->geometry instanceof PointSet => $mark->geometry->count(),
            // of outlines the number is a rule only where the class is not drawn as points
            $class->allows(Shape::Points) => null,
            $mark->geometry instanceof Polygon => intdiv(count($mark->geometry->rings()[0]), 2),
            $mark->geometry instanceof Polyline => intdiv(count($mark->geometry->points), 2),
            default => null,
        };
        if ($class->points !== null && $count !== null && $count !== $class->points) {
            $findings[] = new Finding('points', "{$name}: {$count} of {$class->points} points", true, $mark->id);
        }

        return $findings;
    }

    /** @return list<Finding> */
    private static function cuboid(Mark $mark, Cuboid $cuboid, LabelClass $class, string $name): array
    {
        $findings = $class->allows(Shape::Cuboid) ? [] : [new Finding('shape_not_allowed', "{$name}: {$class->name} is not drawn as a cuboid", true, $mark->id)];
        if ($cuboid->isEmpty()) {
            $findings[] = new Finding('empty', sprintf('%s: the cuboid has no size (%s × %s × %s m)', $name, ...array_map(static fn (float $side): float => round($side, 2), $cuboid->size)), true, $mark->id);
        }

        return $findings;
    }

    /**
     * @param  array<string, Mark>  $marks  by id
     * @return list<Finding>
     */
    private function partOf(Mark $mark, LabelClass $class, string $name, array $marks): array
    {
        if ($mark->partOf === null) {
            return [];
        }
        $whole = $marks[$mark->partOf] ?? null;
        if ($whole === null) {
            return [new Finding('part_of_nothing', "{$name}: what it was a part of is gone", true, $mark->id)];
        }
        if (! in_array($whole->class, $class->partOf, true)) {
            return [new Finding('part_not_allowed', "{$name}: {$class->name} is no part of ".($this->codebook->class($whole->class)->name ?? $whole->class), true, $mark->id)];
        }
        $seen = [$mark->id => true];
        for ($at = $whole; $at !== null; $at = $marks[$at->partOf ?? ''] ?? null) {
            if (isset($seen[$at->id])) {
                return [new Finding('part_of_itself', "{$name}: is a part of itself over others", true, $mark->id)];
            }
            $seen[$at->id] = true;
        }

        return [];
    }

    /**
     * @param  array<string, Answer>  $answers
     * @param  list<Attribute>  $questions  that may be answered at all
     * @param  list<Attribute>  $asked  that are open
     * @return list<Finding>
     */
    private function answers(array $answers, array $questions, array $asked, string $prefix, string $whose, ?string $mark): array
    {
        $findings = [];
        $byKey = [];
        foreach ($questions as $attribute) {
            $byKey[$attribute->key] = $attribute;
        }
        foreach ($answers as $key => $answer) {
            $attribute = $byKey[$key] ?? null;
            if ($attribute === null) {
                $findings[] = new Finding('answer_unknown', "{$prefix}{$whose} has no question \"{$key}\"", true, $mark, $key);
            } elseif (($objection = $attribute->objection($answer)) !== null) {
                $findings[] = new Finding('answer_not_allowed', "{$prefix}{$objection}", true, $mark, $key);
            }
        }
        foreach ($asked as $attribute) {
            if ($attribute->required && ! isset($answers[$attribute->key])) {
                $findings[] = new Finding('answer_missing', "{$prefix}{$attribute->name} is not answered", true, $mark, $attribute->key);
            }
        }

        return $findings;
    }
}
