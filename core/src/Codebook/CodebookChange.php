<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/**
 * What a new version of a codebook does to labels made under the old one. Nothing that is in use may vanish: a class or an
 * answer in use that the new version no longer knows is an orphan and stops the change.
 */
final readonly class CodebookChange
{
    /**
     * @param  list<array{path: string, message: string, count: int}>  $orphans  what would lose its meaning, with the number of marks
     * @param  list<string>  $addedClasses  keys
     * @param  list<string>  $removedClasses  keys, in use or not
     */
    private function __construct(public array $orphans, public array $addedClasses, public array $removedClasses)
    {
    }

    /**
     * @param  array<string, int>  $marksByClass  marks per class key, all layers
     * @param  array<string, array<string, array<string, int>>>  $answers  marks per class key, attribute key and answer as JSON
     */
    public static function between(Codebook $old, Codebook $new, array $marksByClass, array $answers): self
    {
        $orphans = [];
        foreach ($marksByClass as $key => $count) {
            if ($count > 0 && $new->class($key) === null) {
                $name = $old->class($key)->name ?? $key;
                $orphans[] = ['path' => "classes.{$key}", 'message' => "class \"{$name}\" is used by {$count} ".($count === 1 ? 'mark' : 'marks'), 'count' => $count];
            }
        }
        foreach ($answers as $classKey => $byAttribute) {
            $class = $new->class($classKey);
            if ($class === null) {
                continue;
            }
            foreach ($byAttribute as $attributeKey => $byAnswer) {
                foreach ($byAnswer as $json => $count) {
                    $why = self::objection($new, $class, $attributeKey, (string) $json);
                    if ($why !== null) {
                        $orphans[] = ['path' => "attributes.{$attributeKey}", 'message' => "{$why}, but {$count} ".($count === 1 ? 'mark of ' : 'marks of ')."\"{$class->name}\" ".($count === 1 ? 'has' : 'have').' this answer', 'count' => $count];
                    }
                }
            }
        }

        return new self(
            $orphans,
            array_values(array_diff(array_keys($new->classes), array_keys($old->classes))),
            array_values(array_diff(array_keys($old->classes), array_keys($new->classes))),
        );
    }

    private static function objection(Codebook $new, LabelClass $class, string $attributeKey, string $json): ?string
    {
        $attribute = $new->attributes[$attributeKey] ?? null;
        if ($attribute === null) {
            return "attribute \"{$attributeKey}\" would be gone";
        }
        if (! in_array($attributeKey, $class->attributes, true)) {
            return "\"{$attribute->name}\" would no longer be asked for \"{$class->name}\"";
        }

        return $attribute->objection(Answer::fromArray(json_decode($json, true), $attributeKey));
    }
}
