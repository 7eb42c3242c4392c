<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** Asked only while the attribute has one of these values. */
final readonly class Condition
{
    /** @param  non-empty-list<string|bool|int|float>  $any */
    public function __construct(public string $attribute, public array $any)
    {
    }

    public function holds(?Answer $answer): bool
    {
        if ($answer === null || $answer->noValue !== null) {
            return false;
        }
        $given = is_array($answer->value) ? $answer->value : [$answer->value];
        foreach ($this->any as $wanted) {
            foreach ($given as $value) {
                $same = is_bool($wanted) || is_string($wanted) || is_bool($value) || is_string($value)
                    ? $wanted === $value
                    : (float) $wanted === (float) $value;
                if ($same) {
                    return true;
                }
            }
        }

        return false;
    }
}
