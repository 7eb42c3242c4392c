<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/**
 * What may be marked in a project. Valid by construction: it is read by CodebookReader, which checks the grammar and every rule.
 * The document is kept as given, so that what this version can't use yet is not lost.
 */
final readonly class Codebook
{
    /**
     * @param  array<string, LabelClass>  $classes  by key, in the codebook's order
     * @param  array<string, Attribute>  $attributes  by key, in the codebook's order
     * @param  array<string, mixed>  $document  as given
     * @param  array<string, Tag>  $tags  by key, in the codebook's order
     * @param  array<string, Skeleton>  $skeletons  by key
     * @param  array<string, Relation>  $relations  by key, in the codebook's order
     */
    public function __construct(
        public array $classes,
        public array $attributes,
        private array $document,
        public ?int $minObjects = null,
        public ?int $maxObjects = null,
        public array $tags = [],
        public array $skeletons = [],
        public ?int $minTags = null,
        public ?int $maxTags = null,
        public array $relations = [],
    ) {
    }

    /** @throws InvalidCodebook */
    public static function fromArray(mixed $document): self
    {
        return CodebookReader::read($document);
    }

    /** @throws InvalidCodebook */
    public static function fromJson(string $json): self
    {
        // A byte order mark is what some editors put before a JSON file; it means nothing.
        $document = json_decode((string) preg_replace('/^\xEF\xBB\xBF/', '', $json), true, 64);
        if (json_last_error() !== JSON_ERROR_NONE) {
            throw InvalidCodebook::because([['path' => '(document)', 'message' => 'is not JSON: '.json_last_error_msg()]]);
        }

        return self::fromArray($document);
    }

    /** A codebook as `toJson` wrote it: read without checking the grammar once more. */
    public static function stored(string $json): self
    {
        return CodebookReader::read(json_decode($json, true, 64, JSON_THROW_ON_ERROR), true);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return $this->document;
    }

    public function toJson(): string
    {
        return json_encode(Grammar::shaped($this->document), JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n";
    }

    public function class(string $key): ?LabelClass
    {
        return $this->classes[$key] ?? null;
    }

    /**
     * The codebook with only these classes, numbered anew in its order.
     *
     * @param  list<string>  $keys
     */
    public function only(array $keys): self
    {
        $document = $this->document;
        $classes = [];
        foreach (is_array($document['classes'] ?? null) ? $document['classes'] : [] as $class) {
            if (is_array($class) && in_array($class['key'] ?? null, $keys, true)) {
                if (is_array($class['part_of'] ?? null)) {
                    $class['part_of'] = array_values(array_intersect(array_filter($class['part_of'], is_string(...)), $keys));
                }
                $classes[] = $class;
            }
        }

        $relations = [];
        foreach (is_array($document['relations'] ?? null) ? $document['relations'] : [] as $relation) {
            if (! is_array($relation)) {
                continue;
            }
            foreach (['from', 'to'] as $end) {
                $relation[$end] = array_values(array_intersect(array_filter((array) ($relation[$end] ?? []), is_string(...)), $keys));
            }
            if ($relation['from'] !== [] && $relation['to'] !== []) {
                $relations[] = $relation;
            }
        }

        return CodebookReader::read(['classes' => $classes] + ($relations === [] ? [] : ['relations' => $relations]) + array_diff_key($document, ['relations' => true]), true);
    }

    /** Whether texts are labelled by it: spans are marked, or something is asked in several paragraphs. */
    public function isForTexts(): bool
    {
        return array_filter($this->classes, static fn (LabelClass $class): bool => $class->allows(Shape::Span)) !== [] || array_filter($this->attributes, static fn (Attribute $attribute): bool => $attribute->paragraphs) !== [];
    }

    /** The name of a class or a relation; its key where the codebook has neither. */
    public function nameOf(string $key): string
    {
        return $this->classes[$key]->name ?? $this->relations[$key]->name ?? $key;
    }

    /** A class by its key or, failing that, by its name, both without regard to case; null when none or several match. */
    public function classNamed(string $word): ?LabelClass
    {
        $word = mb_strtolower(trim($word));
        foreach ([static fn (LabelClass $class): string => $class->key, static fn (LabelClass $class): string => $class->name] as $naming) {
            $found = array_values(array_filter($this->classes, static fn (LabelClass $class): bool => mb_strtolower($naming($class)) === $word));
            if ($found !== []) {
                return count($found) === 1 ? $found[0] : null;
            }
        }

        return null;
    }

    /** The name a written format uses: the class's name, or its key where two classes share a name. */
    public function exportName(LabelClass $class): string
    {
        foreach ($this->classes as $other) {
            if ($other->key !== $class->key && mb_strtolower($other->name) === mb_strtolower($class->name)) {
                return $class->key;
            }
        }

        return $class->name;
    }

    /** @return list<Attribute> the object attributes of a class in its order, asked by the bench or not */
    public function attributesOf(LabelClass $class): array
    {
        return array_map(fn (string $key): Attribute => $this->attributes[$key], $class->attributes);
    }

    /** @return list<Tag> tags of an item as a whole, in order */
    public function itemTags(): array
    {
        return array_values(array_filter($this->tags, static fn (Tag $tag): bool => $tag->scope === 'item'));
    }

    /** @return list<Attribute> the questions asked of the item as a whole */
    public function itemAttributes(): array
    {
        return array_values(array_filter($this->attributes, static fn (Attribute $attribute): bool => $attribute->scope === Scope::Item));
    }

    /** @return list<string> keys of the classes whose objects are asked a question */
    public function asking(Attribute $question): array
    {
        return array_values(array_filter(array_keys($this->classes), fn (string $key): bool => in_array($question->key, $this->classes[$key]->attributes, true)));
    }

    /** @return list<Attribute> the questions whose answers switch along the axis of an item */
    public function frameAttributes(): array
    {
        return array_values(array_filter($this->attributes, static fn (Attribute $attribute): bool => $attribute->scope === Scope::Frame));
    }

    /** @return list<Attribute> the questions asked of each page of a document */
    public function pageAttributes(): array
    {
        return array_values(array_filter($this->attributes, static fn (Attribute $attribute): bool => $attribute->scope === Scope::Page));
    }

    /**
     * The questions open for a page with these answers about it.
     *
     * @param  array<string, Answer>  $answers
     * @return list<Attribute>
     */
    public function askedOfPage(array $answers): array
    {
        return $this->open($this->pageAttributes(), $answers);
    }

    /** The question of a class whose answer is what is written under its marks; null: there is none. */
    public function readOf(LabelClass $class): ?Attribute
    {
        foreach ($this->attributesOf($class) as $attribute) {
            if ($attribute->reads) {
                return $attribute;
            }
        }

        return null;
    }

    /**
     * The questions open for a mark of this class with these answers: all conditions hold.
     *
     * @param  array<string, Answer>  $answers
     * @return list<Attribute>
     */
    public function asked(LabelClass $class, array $answers): array
    {
        return $this->open($this->attributesOf($class), $answers);
    }

    /**
     * The questions open for an item with these answers about it.
     *
     * @param  array<string, Answer>  $answers
     * @return list<Attribute>
     */
    public function askedOfItem(array $answers): array
    {
        return $this->open($this->itemAttributes(), $answers);
    }

    public function skeletonOf(LabelClass $class): ?Skeleton
    {
        return $class->skeleton === null ? null : $this->skeletons[$class->skeleton] ?? null;
    }

    /**
     * @param  list<Attribute>  $attributes  all that are asked together
     * @param  array<string, Answer>  $answers
     * @return list<Attribute>
     */
    private function open(array $attributes, array $answers): array
    {
        $keys = array_map(static fn (Attribute $attribute): string => $attribute->key, $attributes);

        return array_values(array_filter($attributes, fn (Attribute $attribute): bool => $this->applies($attribute, $keys, $answers)));
    }

    /**
     * Conditions have no cycles (the reader sees to it), so this ends.
     *
     * @param  list<string>  $together  keys of the questions asked together
     * @param  array<string, Answer>  $answers
     */
    private function applies(Attribute $attribute, array $together, array $answers): bool
    {
        foreach ($attribute->when as $condition) {
            // an answer to a question that is itself hidden does not open another
            if (! $condition->holds($answers[$condition->attribute] ?? null)
                || (in_array($condition->attribute, $together, true) && ! $this->applies($this->attributes[$condition->attribute], $together, $answers))) {
                return false;
            }
        }

        return true;
    }
}
