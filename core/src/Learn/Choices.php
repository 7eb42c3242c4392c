<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Skeno\Core\Inference\Told;
use Skeno\Core\InvalidValue;
use Skeno\Core\Quality\Looks;

/**
 * Answers questions by looks: a logistic regression for each option over the looks of objects or pictures, each number brought to the same
 * spread. Of a question with one answer the shares of its options make one; a tag stands for itself.
 */
final readonly class Choices
{
    /** Answers of each option it needs at least. */
    public const LEAST = 5;

    /** Answers learned from at most, of each question. */
    private const MOST = 3000;

    private const RIDGE = 2.0;

    /** What the options of a yes-no question are called. */
    private const YES_NO = ['yes' => true, 'no' => false];

    /**
     * @param  array<string, array{options: list<string>, one: bool, mean: array<int, float>, by: array<int, float>, weights: array<int, array<int, float>>}>  $questions  by name; one: options exclude each other
     */
    private function __construct(private array $questions)
    {
    }

    /**
     * @param  array<string, array{one: bool, answers: list<array{Looks, list<string>}>}>  $questions  by name: what things look like and which options hold for each
     * @return array{0: self, 1: array<string, string>} and why questions were left out
     *
     * @throws InvalidValue when not one can be learned
     */
    public static function learn(array $questions): array
    {
        $learned = $left = [];
        foreach ($questions as $name => ['one' => $one, 'answers' => $answers]) {
            $counts = [];
            foreach ($answers as [, $options]) {
                foreach ($options as $option) {
                    $counts[$option] = ($counts[$option] ?? 0) + 1;
                }
            }
            $enough = array_keys(array_filter($counts, static fn (int $n): bool => $n >= self::LEAST && ($one || count($answers) - $n >= self::LEAST)));
            sort($enough);
            if (count($enough) < ($one ? 2 : 1)) {
                $left[$name] = $one ? 'fewer than two options with '.self::LEAST.' answers' : 'nothing with '.self::LEAST.' cases for and against';

                continue;
            }
            $learned[$name] = self::question(array_slice($answers, 0, self::MOST), array_map(strval(...), $enough), $one);
        }
        if ($learned === []) {
            throw InvalidValue::at('answers', count($questions).' questions', 'at least one with '.self::LEAST.' accepted answers of two options each');
        }

        return [new self($learned), $left];
    }

    /**
     * @param  list<array{Looks, list<string>}>  $answers
     * @param  list<string>  $options
     * @return array{options: list<string>, one: bool, mean: array<int, float>, by: array<int, float>, weights: array<int, array<int, float>>}
     */
    private static function question(array $answers, array $options, bool $one): array
    {
        $n = count($answers);
        $mean = $by = [];
        for ($i = 0; $i < Looks::DIMENSIONS; $i++) {
            $sum = $square = 0.0;
            foreach ($answers as [$looks]) {
                $sum += $looks->values[$i];
                $square += $looks->values[$i] ** 2;
            }
            $mean[] = $sum / $n;
            $by[] = 1 / max(1e-3, sqrt(max(0.0, $square / $n - ($sum / $n) ** 2)));
        }
        $said = array_map(static fn (array $answer): array => self::said($answer[0], $mean, $by), $answers);
        $weights = [];
        foreach ($options as $option) {
            $weights[] = Logistic::fit($said, array_map(static fn (array $answer): int => in_array($option, $answer[1], true) ? 1 : 0, $answers), self::RIDGE);
        }

        return ['options' => $options, 'one' => $one, 'mean' => $mean, 'by' => $by, 'weights' => $weights];
    }

    /**
     * @param  array<int, float>  $mean
     * @param  array<int, float>  $by
     * @return array<int, float>
     */
    private static function said(Looks $looks, array $mean, array $by): array
    {
        $said = [];
        foreach ($looks->values as $i => $value) {
            $said[] = ($value - $mean[$i]) * $by[$i];
        }
        $said[] = 1.0;

        return $said;
    }

    /** @return list<string> names */
    public function questions(): array
    {
        return array_keys($this->questions);
    }

    /** @return list<string> what may be answered; empty when the question is not known */
    public function options(string $question): array
    {
        return $this->questions[$question]['options'] ?? [];
    }

    public function excludes(string $question): bool
    {
        return $this->questions[$question]['one'] ?? false;
    }

    /**
     * How likely each option is; those of a question with one answer make 1.
     *
     * @return array<string, float> by option, the likeliest first; empty when the question is not known
     */
    public function likely(string $question, Looks $looks): array
    {
        $known = $this->questions[$question] ?? null;
        if ($known === null) {
            return [];
        }
        $said = self::said($looks, $known['mean'], $known['by']);
        $likely = [];
        foreach ($known['options'] as $k => $option) {
            $likely[$option] = Logistic::of($known['weights'][$k], $said);
        }
        if ($known['one']) {
            $sum = max(1e-9, array_sum($likely));
            $likely = array_map(static fn (float $p): float => $p / $sum, $likely);
        }
        arsort($likely);

        return $likely;
    }

    /**
     * All it can say of a thing that looks so.
     *
     * @param  string  $about  what the names of the questions begin with: Then::OF_OBJECT or Then::OF_PICTURE
     */
    public function told(string $about, Looks $looks): Told
    {
        $tags = $answers = [];
        foreach (array_keys($this->questions) as $name) {
            if (! str_starts_with($name, $about)) {
                continue;
            }
            $likely = $this->likely($name, $looks);
            if (! $this->questions[$name]['one']) {
                $tags += $likely;

                continue;
            }
            foreach ($likely as $option => $sure) {
                $answers[substr($name, strlen($about))] = [self::YES_NO[$option] ?? (string) $option, $sure];

                break;
            }
        }

        return new Told($tags, $answers);
    }

    public function pack(): string
    {
        $packed = pack('v', count($this->questions));
        foreach ($this->questions as $name => $known) {
            $packed .= Packed::ofText($name).pack('Cv', $known['one'] ? 1 : 0, count($known['options']));
            foreach ($known['options'] as $option) {
                $packed .= Packed::ofText($option);
            }
            $packed .= pack('g*', ...$known['mean'], ...$known['by'], ...array_merge(...$known['weights']));
        }

        return $packed;
    }

    /** @throws InvalidValue */
    public static function unpack(string $packed): self
    {
        $read = new Packed($packed);
        $questions = [];
        for ($q = $read->ints('v', 1)[0]; $q > 0; $q--) {
            $name = $read->text();
            $one = $read->ints('C', 1)[0] === 1;
            $options = [];
            for ($k = $read->ints('v', 1)[0]; $k > 0; $k--) {
                $options[] = $read->text();
            }
            $mean = $read->floats(Looks::DIMENSIONS);
            $by = $read->floats(Looks::DIMENSIONS);
            $weights = [];
            foreach ($options as $_) {
                $weights[] = $read->floats(Looks::DIMENSIONS + 1);
            }
            $questions[$name] = ['options' => $options, 'one' => $one, 'mean' => $mean, 'by' => $by, 'weights' => $weights];
        }
        $read->end();

        return new self($questions);
    }
}
