<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\Fields;

/** Reads a codebook document: the grammar first, then the rules its description adds, all errors at once. */
final class CodebookReader
{
    /** @var list<array{path: string, message: string}> */
    private array $errors = [];

    private function __construct(private readonly Fields $document)
    {
    }

    /**
     * @param  bool  $knownGrammar  the document has passed the grammar before (it comes from our own storage); the check of it costs
     *                              twenty times the rest
     *
     * @throws InvalidCodebook
     */
    public static function read(mixed $document, bool $knownGrammar = false): Codebook
    {
        $errors = $knownGrammar ? [] : Grammar::errors($document);
        if ($errors !== []) {
            throw InvalidCodebook::because($errors);
        }
        $reader = new self(Fields::of($document));
        $codebook = $reader->build();
        if ($reader->errors !== []) {
            throw InvalidCodebook::because($reader->errors);
        }

        return $codebook;
    }

    private function build(): Codebook
    {
        $attributes = $this->attributes();
        $skeletons = $this->skeletons();
        $classes = $this->classes($attributes, $skeletons);
        $tags = $this->tags();
        $this->conditions($attributes);
        $limits = $this->document->has('limits') ? $this->document->object('limits') : Fields::of([]);
        foreach (['objects', 'tags'] as $name) {
            if ($limits->has($name)) {
                $this->ordered("limits.{$name}", $limits->object($name));
            }
        }
        $objects = $limits->has('objects') ? $limits->object('objects') : Fields::of([]);

        $tagLimits = $limits->has('tags') ? $limits->object('tags') : Fields::of([]);

        return new Codebook(
            $classes, $attributes, self::stringKeys($this->document->all()), $objects->optionalInt('min'), $objects->optionalInt('max'),
            $tags, $skeletons, $tagLimits->optionalInt('min'), $tagLimits->optionalInt('max'), $this->relations($classes),
        );
    }

    /** @return array<string, Tag> */
    private function tags(): array
    {
        $tags = [];
        $list = $this->document->objects('tags');
        $this->uniqueKeys('tags', $list);
        foreach ($list as $fields) {
            $tags[$fields->string('key')] = new Tag($fields->string('key'), $fields->string('name'), $fields->optionalString('group'), $fields->optionalString('scope') ?? 'item', $fields->optionalString('description'));
        }

        return $tags;
    }

    /**
     * @param  array<string, LabelClass>  $classes
     * @return array<string, Relation>
     */
    private function relations(array $classes): array
    {
        $relations = [];
        $list = $this->document->objects('relations');
        $this->uniqueKeys('relations', $list);
        foreach ($list as $i => $fields) {
            $key = $fields->string('key');
            if (isset($classes[$key])) {
                $this->error("relations[{$i}].key", "\"{$key}\" is already the key of a class");
            }
            foreach (['from', 'to'] as $end) {
                $this->references("relations[{$i}].{$end}", $fields->strings($end), array_keys($classes), 'class');
            }
            $relations[$key] = new Relation($i, $key, $fields->string('name'), $fields->strings('from'), $fields->strings('to'), $fields->optionalString('color') ?? Palette::deep($i + count($classes)), $fields->optionalString('description'));
        }

        return $relations;
    }

    /** @return array<string, Attribute> */
    private function attributes(): array
    {
        $attributes = [];
        $list = $this->document->objects('attributes');
        $this->uniqueKeys('attributes', $list);
        foreach ($list as $i => $fields) {
            $path = "attributes[{$i}]";
            $options = [];
            $this->uniqueKeys("{$path}.options", $fields->objects('options'));
            foreach ($fields->objects('options') as $option) {
                $options[] = new Option($option->string('key'), $option->string('name'), $option->optionalString('description'));
            }
            $when = [];
            foreach ($fields->objects('when') as $condition) {
                /** @var non-empty-list<string|bool|int|float> $any the grammar allows nothing else */
                $any = $condition->list('any');
                $when[] = new Condition($condition->string('attribute'), $any);
            }
            $this->ordered($path, $fields);
            /** @var string|bool|int|float|list<string>|null $default */
            $default = $fields->raw('default');
            $attribute = new Attribute(
                key: $fields->string('key'),
                name: $fields->string('name'),
                type: AttributeType::from($fields->string('type')),
                scope: Scope::from($fields->string('scope')),
                options: $options,
                required: $fields->bool('required'),
                default: $default,
                noValue: array_map(NoValue::from(...), $fields->strings('no_value')),
                when: $when,
                min: $fields->optionalNumber('min'),
                max: $fields->optionalNumber('max'),
                step: $fields->optionalNumber('step'),
                unit: $fields->optionalString('unit'),
                description: $fields->optionalString('description'),
                varies: $fields->bool('varies'),
                paragraphs: $fields->optionalString('control') === 'paragraphs',
                reads: $fields->bool('reads'),
            );
            if ($attribute->reads && ($attribute->type !== AttributeType::Text || $attribute->scope !== Scope::Object)) {
                $this->error("{$path}.reads", 'only a text that is asked of objects can be what is written under them');
            }
            if ($default !== null) {
                $objection = $attribute->objection(Answer::of($default));
                if ($objection !== null) {
                    $this->error("{$path}.default", "can't be an answer: {$objection}");
                }
            }
            $this->lookAt("{$path}.look_at", $fields);
            $attributes[$attribute->key] = $attribute;
        }

        return $attributes;
    }

    /** @return array<string, Skeleton> */
    private function skeletons(): array
    {
        $skeletons = [];
        $list = $this->document->objects('skeletons');
        $this->uniqueKeys('skeletons', $list);
        foreach ($list as $i => $skeleton) {
            $path = "skeletons[{$i}]";
            $twins = $nodes = $edges = [];
            $this->uniqueKeys("{$path}.nodes", $skeleton->objects('nodes'));
            foreach ($skeleton->objects('nodes') as $node) {
                $twins[$node->string('key')] = $node->optionalString('twin');
                $nodes[$node->string('key')] = new Node($node->string('key'), $node->string('name'), $node->number('x'), $node->number('y'), $node->optionalString('twin'), $node->optionalString('group'));
            }
            $j = 0;
            foreach ($twins as $key => $twin) {
                if ($twin !== null && (! array_key_exists($twin, $twins) || $twins[$twin] !== $key || $twin === $key)) {
                    $this->error("{$path}.nodes[{$j}].twin", "\"{$twin}\" is not a node whose twin is \"{$key}\"");
                }
                $j++;
            }
            foreach ($skeleton->list('edges') as $j => $edge) {
                foreach (is_array($edge) ? $edge : [] as $end => $node) {
                    if (! is_string($node) || ! array_key_exists($node, $twins)) {
                        $this->error("{$path}.edges[{$j}][{$end}]", 'there is no node '.\Skeno\Core\InvalidValue::show($node));

                        continue 2;
                    }
                }
                /** @var array{string, string} $edge the grammar allows nothing else */
                if ($edge[0] === $edge[1]) {
                    $this->error("{$path}.edges[{$j}]", "joins \"{$edge[0]}\" with itself");

                    continue;
                }
                $edges[] = $edge;
            }
            $skeletons[$skeleton->string('key')] = new Skeleton($skeleton->string('key'), $skeleton->string('name'), $nodes, $edges);
        }

        return $skeletons;
    }

    /**
     * @param  array<string, Attribute>  $attributes
     * @param  array<string, Skeleton>  $skeletons
     * @return array<string, LabelClass>
     */
    private function classes(array $attributes, array $skeletons): array
    {
        $list = $this->document->objects('classes');
        $this->uniqueKeys('classes', $list);
        $keys = array_map(static fn (Fields $fields): string => $fields->string('key'), $list);
        $classes = $shortcuts = [];
        foreach ($list as $i => $fields) {
            $path = "classes[{$i}]";
            $shapes = array_map(Shape::from(...), $fields->strings('shapes'));
            $this->references("{$path}.attributes", $fields->strings('attributes'), array_keys($attributes), 'attribute');
            foreach ($fields->strings('attributes') as $j => $key) {
                if (isset($attributes[$key]) && $attributes[$key]->scope !== Scope::Object) {
                    $this->error("{$path}.attributes[{$j}]", "\"{$key}\" is asked of the {$attributes[$key]->scope->value}, not of objects");
                }
            }
            $this->references("{$path}.part_of", $fields->strings('part_of'), $keys, 'class');
            $skeleton = $fields->optionalString('skeleton');
            if (in_array(Shape::Skeleton, $shapes, true) && $skeleton === null) {
                $this->error("{$path}.skeleton", 'a class with shape skeleton must name one');
            } elseif ($skeleton !== null && ! isset($skeletons[$skeleton])) {
                $this->error("{$path}.skeleton", "there is no skeleton \"{$skeleton}\"");
            }
            $shortcut = $fields->optionalString('shortcut');
            if ($shortcut !== null && isset($shortcuts[$shortcut])) {
                $this->error("{$path}.shortcut", "key {$shortcut} is taken by classes[{$shortcuts[$shortcut]}]");
            } elseif ($shortcut !== null) {
                $shortcuts[$shortcut] = $i;
            }
            if (count($fields->strings('point_names')) > ($fields->optionalInt('points') ?? 0)) {
                $this->error("{$path}.point_names", $fields->optionalInt('points') === null ? 'points that have names need a number of them' : 'more names than points');
            }
            $rules = $fields->has('rules') ? $fields->object('rules') : Fields::of([]);
            if ($rules->has('margin')) {
                $this->ordered("{$path}.rules.margin", $rules->object('margin'));
            }
            $key = $fields->string('key');
            $classes[$key] = new LabelClass(
                index: $i,
                key: $key,
                name: $fields->string('name'),
                color: $fields->optionalString('color') ?? Palette::deep($i),
                marker: Marker::tryFrom($fields->optionalString('marker') ?? '') ?? Marker::nth($i),
                shapes: $shapes,
                attributes: array_values(array_intersect($fields->strings('attributes'), array_keys($attributes))),
                partOf: $fields->strings('part_of'),
                shortcut: $shortcut,
                stack: $fields->optionalInt('stack') ?? 0,
                ignore: $fields->bool('ignore'),
                minSize: $rules->optionalNumber('min_size'),
                description: $fields->optionalString('description'),
                skeleton: $skeleton,
                points: $fields->optionalInt('points'),
                margin: $rules->has('margin') ? self::margin($rules->object('margin')) : null,
                minVisible: $rules->optionalNumber('min_visible'),
                upright: $fields->optionalString('orientation') === 'upright',
                absent: $fields->optionalString('out_of_sight') === 'absent',
                pointNames: $fields->strings('point_names'),
            );
        }

        return $classes;
    }

    private static function margin(Fields $margin): Margin
    {
        return new Margin($margin->optionalNumber('min') ?? 0.0, $margin->optionalNumber('max') ?? INF, $margin->string('unit') === '%');
    }

    /** Where an answer is to be seen: a node some skeleton has, or a part with all four sides. */
    private function lookAt(string $path, Fields $question): void
    {
        if (! is_array($question->raw('look_at'))) {
            return;
        }
        $at = $question->object('look_at');
        if ($at->has('node')) {
            $nodes = [];
            foreach ($this->document->objects('skeletons') as $skeleton) {
                foreach ($skeleton->objects('nodes') as $node) {
                    $nodes[] = $node->string('key');
                }
            }
            $this->references("{$path}.node", [$at->string('node')], array_values(array_unique($nodes)), 'node');
        } elseif (! $at->has('width') || ! $at->has('height')) {
            $this->error($path, 'needs a node, or a part of the object with its width and height');
        }
    }

    /** @param  array<string, Attribute>  $attributes */
    private function conditions(array $attributes): void
    {
        $i = 0;
        foreach ($attributes as $attribute) {
            foreach ($attribute->when as $j => $condition) {
                $path = "attributes[{$i}].when[{$j}]";
                $needed = $attributes[$condition->attribute] ?? null;
                if ($needed === null) {
                    $this->error("{$path}.attribute", "there is no attribute \"{$condition->attribute}\"");

                    continue;
                }
                foreach ($condition->any as $k => $value) {
                    $objection = $needed->objection(Answer::of($needed->type === AttributeType::Many ? [is_string($value) ? $value : (string) json_encode($value)] : $value));
                    if ($objection !== null) {
                        $this->error("{$path}.any[{$k}]", "can't be an answer: {$objection}");
                    }
                }
            }
            if ($this->reaches($attribute->key, $attribute->key, $attributes)) {
                $this->error("attributes[{$i}].when", "the conditions of \"{$attribute->key}\" lead back to itself");
            }
            $i++;
        }
    }

    /**
     * Whether the conditions of one attribute depend, over any number of steps, on another.
     *
     * @param  array<string, Attribute>  $attributes
     */
    private function reaches(string $from, string $goal, array $attributes): bool
    {
        $seen = [];
        $stack = [$from];
        while ($stack !== []) {
            foreach ($attributes[array_pop($stack)]->when as $condition) {
                if ($condition->attribute === $goal) {
                    return true;
                }
                if (! isset($seen[$condition->attribute]) && isset($attributes[$condition->attribute])) {
                    $seen[$condition->attribute] = true;
                    $stack[] = $condition->attribute;
                }
            }
        }

        return false;
    }

    /** @param  list<Fields>  $list */
    private function uniqueKeys(string $path, array $list): void
    {
        $seen = [];
        foreach ($list as $i => $fields) {
            $key = $fields->string('key');
            if (isset($seen[$key])) {
                $this->error("{$path}[{$i}].key", "\"{$key}\" is already the key of {$path}[{$seen[$key]}]");
            }
            $seen[$key] ??= $i;
        }
    }

    /**
     * @param  list<string>  $keys
     * @param  list<string>  $known
     */
    private function references(string $path, array $keys, array $known, string $what): void
    {
        foreach ($keys as $i => $key) {
            if (! in_array($key, $known, true)) {
                $this->error("{$path}[{$i}]", "there is no {$what} \"{$key}\"");
            }
        }
    }

    private function ordered(string $path, Fields $range): void
    {
        $min = $range->optionalNumber('min');
        $max = $range->optionalNumber('max');
        if ($min !== null && $max !== null && $min > $max) {
            $this->error("{$path}.min", "{$min} is more than max {$max}");
        }
    }

    private function error(string $path, string $message): void
    {
        $this->errors[] = ['path' => $path, 'message' => $message];
    }

    /**
     * @param  array<array-key, mixed>  $data
     * @return array<string, mixed>
     */
    private static function stringKeys(array $data): array
    {
        $keyed = [];
        foreach ($data as $key => $value) {
            $keyed[(string) $key] = $value;
        }

        return $keyed;
    }
}
