<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Workflow\ItemState;

/** One condition of a filter over items, as it is written: `state:accepted`, `-class:apple`, `answer:ripeness=green`, `re:^north`. */
final readonly class Condition
{
    /** Answers that are none of a question's own. */
    private const OPEN = 'open';

    /**
     * @param  ?array{0: string, 1: '='|'>='|'<=', 2: string}  $fact  its key, how it is compared, and with what
     * @param  ?array{0: '='|'>='|'<=', 1: float}  $amount  how a number is compared, and with what
     */
    private function __construct(public ConditionKind $kind, public string $value, public bool $not, public ?Attribute $question, public ?Pattern $pattern, public ?array $fact, public ?array $amount)
    {
    }

    /**
     * Reads `[-]kind:value`. Of an answer the value is `question=answer`: one of the question's words (Attribute::words).
     *
     * @throws InvalidValue that names what was wrong
     */
    public static function parse(string $text, Codebook $codebook): self
    {
        $not = str_starts_with($text, '-');
        [$word, $value] = explode(':', $not ? substr($text, 1) : $text, 2) + [1 => ''];
        $kind = ConditionKind::tryFrom($word) ?? throw InvalidValue::at('f', $text, 'one of '.implode(', ', array_map(static fn (ConditionKind $kind): string => "{$kind->value}:…", ConditionKind::cases())));
        $question = $pattern = null;
        $amount = $kind->isAmount() ? self::amount($kind, $value) : null;
        $known = match ($kind) {
            ConditionKind::State => array_column(ItemState::cases(), 'value'),
            ConditionKind::Labelled => array_column(Labelled::cases(), 'value'),
            ConditionKind::Part => array_column(Part::cases(), 'value'),
            ConditionKind::Tag => array_keys($codebook->tags),
            ConditionKind::LabelClass => array_keys($codebook->classes),
            default => null,
        };
        if ($known !== null && ! in_array($value, $known, true)) {
            throw InvalidValue::at($kind->value, $value, implode(', ', $known));
        }
        if ($kind === ConditionKind::Name && (trim($value) === '' || strlen($value) > 500)) {
            throw InvalidValue::at('name', mb_strimwidth($value, 0, 60, '…'), 'a part of a name');
        }
        if ($kind === ConditionKind::Words && (trim($value) === '' || strlen($value) > 500)) {
            throw InvalidValue::at('words', mb_strimwidth($value, 0, 60, '…'), 'words of a text, at most 500 bytes');
        }
        $fact = $kind === ConditionKind::Fact ? self::fact($value) : null;
        if ($kind === ConditionKind::Pattern || $kind === ConditionKind::WordsPattern) {
            $pattern = Pattern::of($value, $kind->value);
        }
        if ($kind === ConditionKind::Answer) {
            [$key, $value] = explode('=', $value, 2) + [1 => ''];
            $question = $codebook->attributes[$key] ?? throw InvalidValue::at('answer', $key, 'a question of the codebook: '.implode(', ', array_keys($codebook->attributes)));
            $answers = $question->words();
            if (! in_array($value, $answers, true)) {
                throw InvalidValue::at('answer', "{$key}={$value}", implode(', ', $answers));
            }
        }

        return new self($kind, $value, $not, $question, $pattern, $fact, $amount);
    }

    /** @return array{0: '='|'>='|'<=', 1: float} */
    private static function amount(ConditionKind $kind, string $text): array
    {
        if (preg_match('/^(>=|<=|=)?(\d{1,9}(?:\.\d{1,6})?)$/', $text, $parts) !== 1) {
            throw InvalidValue::at($kind->value, mb_strimwidth(mb_scrub($text), 0, 60, '…'), 'a number, such as >=10, <=10 or =10');
        }
        /** @var '='|'>='|'<=' $sign the pattern allows nothing else */
        $sign = $parts[1] === '' ? '=' : $parts[1];

        return [$sign, (float) $parts[2]];
    }

    /** @return array{0: string, 1: '='|'>='|'<=', 2: string} */
    private static function fact(string $text): array
    {
        if (preg_match('/^([^=<>]+)(>=|<=|=)(.+)$/us', $text, $parts) !== 1 || ! FactsTable::isKey($parts[1]) || ($parts[2] !== '=' && ! is_numeric($parts[3]))) {
            throw InvalidValue::at('fact', mb_strimwidth(mb_scrub($text), 0, 80, '…'), 'a fact and its value, such as weather=rain, or a number, such as height>=2.5');
        }
        /** @var '='|'>='|'<=' $sign the pattern allows nothing else */
        $sign = $parts[2];

        return [$parts[1], $sign, $parts[3]];
    }

    public function isOpen(): bool
    {
        return $this->kind === ConditionKind::Answer && $this->value === self::OPEN;
    }
}
