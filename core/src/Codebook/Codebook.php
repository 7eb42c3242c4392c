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
     */
    public function __construct(public array $classes, public array $attributes, private array $document, public ?int $minObjects = null, public ?int $maxObjects = null)
    {
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
        return json_encode($this->document, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n";
    }

    public function class(string $key): ?LabelClass
    {
        return $this->classes[$key] ?? null;
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

    /**
     * The questions open for a mark of this class with these answers: all conditions hold.
     *
     * @param  array<string, Answer>  $answers
     * @return list<Attribute>
     */
    public function asked(LabelClass $class, array $answers): array
    {
        return array_values(array_filter($this->attributesOf($class), function (Attribute $attribute) use ($answers, $class): bool {
            return $this->applies($attribute, $class, $answers, 0);
        }));
    }

    /** @return list<array{path: string, message: string}> what the codebook holds that the bench can't use yet */
    public function notYetUsed(): array
    {
        $notes = [];
        foreach (array_values($this->classes) as $i => $class) {
            foreach ($class->shapes as $shape) {
                if (! $shape->isDrawn()) {
                    $notes[] = ['path' => "classes[{$i}].shapes", 'message' => "{$shape->value} is kept, but can't be drawn yet"];
                }
            }
        }
        foreach (array_values($this->attributes) as $i => $attribute) {
            if ($attribute->scope !== Scope::Object) {
                $notes[] = ['path' => "attributes[{$i}]", 'message' => "{$attribute->name} is asked of the {$attribute->scope->value}; kept, but not asked yet"];
            } elseif (! $attribute->type->isAsked()) {
                $notes[] = ['path' => "attributes[{$i}]", 'message' => "type {$attribute->type->value} is kept, but not asked yet"];
            }
        }
        foreach (['tags', 'skeletons'] as $part) {
            if (isset($this->document[$part]) && is_array($this->document[$part]) && $this->document[$part] !== []) {
                $notes[] = ['path' => $part, 'message' => "{$part} are kept, but can't be used yet"];
            }
        }

        return $notes;
    }

    /** @param  array<string, Answer>  $answers */
    private function applies(Attribute $attribute, LabelClass $class, array $answers, int $depth): bool
    {
        foreach ($attribute->when as $condition) {
            $needed = $this->attributes[$condition->attribute];
            // an answer to a question that is itself hidden does not open another
            if (! $condition->holds($answers[$condition->attribute] ?? null)
                || ($depth < count($this->attributes) && in_array($needed->key, $class->attributes, true) && ! $this->applies($needed, $class, $answers, $depth + 1))) {
                return false;
            }
        }

        return true;
    }
}
