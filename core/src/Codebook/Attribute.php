<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** A question of the codebook. Built by CodebookReader only, so what it says has been checked. */
final readonly class Attribute
{
    /** Characters of a written answer, and of one of several paragraphs. */
    private const SHORT = 4000;

    private const LONG = 20_000;

    /**
     * @param  list<Option>  $options  of a choice; empty for other types
     * @param  list<NoValue>  $noValue  ways of having no value that count as an answer
     * @param  list<Condition>  $when  all must hold for the question to be asked
     * @param  bool  $varies  of an object along an axis: its answer may change from place to place
     * @param  ?float  $min  of a number; of a text the fewest characters (code points)
     * @param  ?float  $max  of a number; of a text the most characters
     * @param  bool  $paragraphs  a text of several paragraphs
     * @param  bool  $reads  a text of an object on a page: what is written under its mark is offered as the answer
     * @param  string|bool|int|float|list<string>|null  $default  shown, but no answer until touched
     */
    public function __construct(
        public string $key,
        public string $name,
        public AttributeType $type,
        public Scope $scope,
        public array $options = [],
        public bool $required = false,
        public string|bool|int|float|array|null $default = null,
        public array $noValue = [],
        public array $when = [],
        public ?float $min = null,
        public ?float $max = null,
        public ?float $step = null,
        public ?string $unit = null,
        public ?string $description = null,
        public bool $varies = false,
        public bool $paragraphs = false,
        public bool $reads = false,
    ) {
    }

    /** Most characters (code points) of a written answer. */
    public function mostCharacters(): int
    {
        $most = $this->paragraphs ? self::LONG : self::SHORT;

        return $this->max === null ? $most : min($most, (int) $this->max);
    }

    /** Why a value can't be an answer to this question, or null when it can. */
    public function objection(Answer $answer): ?string
    {
        if ($answer->noValue !== null) {
            return in_array($answer->noValue, $this->noValue, true) ? null : "\"{$answer->noValue->value}\" is not offered for {$this->name}";
        }
        $value = $answer->value;

        return match ($this->type) {
            AttributeType::One => is_string($value) && $this->hasOption($value) ? null : $this->say($value, 'one of '.$this->optionKeys()),
            AttributeType::Many => $this->objectionToMany($value),
            AttributeType::YesNo => is_bool($value) ? null : $this->say($value, 'true or false'),
            AttributeType::Number => $this->objectionToNumber($value),
            AttributeType::Text => $this->objectionToText($value),
            AttributeType::Date => $this->objectionToPattern($value, 'Y-m-d'),
            AttributeType::Time => $this->objectionToPattern($value, 'H:i'),
            AttributeType::DateTime => $this->objectionToPattern($value, 'Y-m-d\TH:i'),
        };
    }

    /** How an option or a tag is asked for: by its key, unless that alone would mean that nothing has been said. */
    public static function word(string $key): string
    {
        return $key === 'open' ? 'is:open' : $key;
    }

    /** @return list<string> what can be asked for of this question: `open` (nothing said), an option (the one called open as `is:open`), `yes`, `no`, `no:<way of having no value>` */
    public function words(): array
    {
        return [
            'open',
            ...array_map(static fn (Option $option): string => self::word($option->key), $this->options),
            ...($this->type === AttributeType::YesNo ? ['yes', 'no'] : []),
            ...array_map(static fn (NoValue $way): string => "no:{$way->value}", $this->noValue),
        ];
    }

    /** Whether an answer is what is asked for by one of the words, other than `open`. */
    public function isWord(Answer $answer, string $word): bool
    {
        if (str_starts_with($word, 'no:')) {
            return $answer->noValue?->value === substr($word, 3);
        }
        if ($this->type === AttributeType::YesNo) {
            return $answer->value === ($word === 'yes');
        }
        $option = str_starts_with($word, 'is:') ? substr($word, 3) : $word;

        return is_array($answer->value) ? in_array($option, $answer->value, true) : $answer->value === $option;
    }

    public function hasOption(string $key): bool
    {
        foreach ($this->options as $option) {
            if ($option->key === $key) {
                return true;
            }
        }

        return false;
    }

    /** @param  string|bool|int|float|list<string>|null  $value */
    private function objectionToMany(string|bool|int|float|array|null $value): ?string
    {
        if (! is_array($value) || $value === []) {
            return $this->say($value, 'a list of one or more of '.$this->optionKeys());
        }
        foreach ($value as $key) {
            if (! $this->hasOption($key)) {
                return $this->say($key, 'one of '.$this->optionKeys());
            }
        }

        return count(array_unique($value)) === count($value) ? null : $this->say($value, 'each choice once');
    }

    /** @param  string|bool|int|float|list<string>|null  $value */
    private function objectionToText(string|bool|int|float|array|null $value): ?string
    {
        $least = max(1, (int) $this->min);
        $most = $this->mostCharacters();
        if (! is_string($value) || $value === '') {
            return $this->say($value, "text of {$least} to {$most} characters");
        }
        $length = mb_strlen($value, 'UTF-8');

        return $length >= $least && $length <= $most ? null : "{$this->name} has {$length} characters; expected {$least} to {$most}";
    }

    /** @param  string|bool|int|float|list<string>|null  $value */
    private function objectionToNumber(string|bool|int|float|array|null $value): ?string
    {
        if ((! is_int($value) && ! is_float($value)) || ! is_finite((float) $value)) {
            return $this->say($value, 'a number');
        }
        if (($this->min !== null && $value < $this->min) || ($this->max !== null && $value > $this->max)) {
            return $this->say($value, trim(($this->min !== null ? "at least {$this->min} " : '').($this->max !== null ? "at most {$this->max}" : '')));
        }
        if ($this->step !== null) {
            $steps = ((float) $value - ($this->min ?? 0.0)) / $this->step;
            if (abs($steps - round($steps)) > 1e-6) {
                return $this->say($value, "a step of {$this->step} from ".($this->min ?? 0));
            }
        }

        return null;
    }

    /** @param  string|bool|int|float|list<string>|null  $value */
    private function objectionToPattern(string|bool|int|float|array|null $value, string $format): ?string
    {
        $date = is_string($value) ? \DateTimeImmutable::createFromFormat('!'.$format, $value) : false;

        return $date !== false && $date->format($format) === $value ? null : $this->say($value, "a {$this->type->value} like ".(new \DateTimeImmutable('2026-05-04 09:30'))->format($format));
    }

    private function say(mixed $value, string $expected): string
    {
        return "{$this->name} is ".\Skeno\Core\InvalidValue::show($value)."; expected {$expected}";
    }

    private function optionKeys(): string
    {
        return implode(', ', array_map(static fn (Option $option): string => $option->key, $this->options));
    }
}
