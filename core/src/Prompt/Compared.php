<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/**
 * What was said of a text held against what is known of it. A span hits exactly when class and both ends are the same; it overlaps when the class is
 * the same and some of it is, each span counting once: those that are the same first, then the pairs that have most in common.
 */
final readonly class Compared
{
    /** Pairs that are weighed against each other: of a reply in which everything lies over everything the rest is missing and extra. */
    private const MOST = 500_000;

    /**
     * @param  list<array{class: string, known: ?Span, said: ?Span}>  $pairs  in the order of the text: missing where nothing was said, extra where nothing is known, else the same or bounded otherwise
     * @param  array<string, array{known: ?Answer, said: ?Answer}>  $answers  where either is
     * @param  array<string, array{known: bool, said: bool}>  $tags  where either is
     */
    private function __construct(public array $pairs, public array $answers, public array $tags)
    {
    }

    /**
     * A reply held against what is known of its text, as far as it was asked for.
     *
     * @param  list<Mark>  $marks  of the text
     */
    public static function reply(Reply $reply, array $marks, ItemAnswers $truth, Task $task): self
    {
        $known = [];
        foreach ($marks as $mark) {
            if ($mark->geometry instanceof Span && in_array($mark->class, $task->classes, true)) {
                $known[] = ['class' => $mark->class, 'span' => $mark->geometry];
            }
        }

        return self::of($known, $reply->spans, array_intersect_key($truth->answers, array_flip($task->questions)), $reply->answers, array_values(array_intersect($truth->tags, $task->tags)), $reply->tags);
    }

    /**
     * @param  list<array{class: string, span: Span}>  $known
     * @param  list<array{class: string, span: Span}>  $said
     * @param  array<string, Answer>  $knownAnswers  to the questions that were asked
     * @param  array<string, Answer>  $saidAnswers
     * @param  list<string>  $knownTags
     * @param  list<string>  $saidTags
     */
    public static function of(array $known, array $said, array $knownAnswers = [], array $saidAnswers = [], array $knownTags = [], array $saidTags = []): self
    {
        $pairs = $there = $left = [];
        foreach ($known as $i => $one) {
            $there["{$one['class']} {$one['span']->start} {$one['span']->end}"] ??= $i;
        }
        foreach ($said as $one) {
            $key = "{$one['class']} {$one['span']->start} {$one['span']->end}";
            if (isset($there[$key])) {
                $pairs[] = ['class' => $one['class'], 'known' => $one['span'], 'said' => $one['span']];
                unset($known[$there[$key]], $there[$key]);
            } else {
                $left[] = $one;
            }
        }
        $near = self::near(array_values($known), $left);
        foreach ($near as [$one, $other]) {
            $pairs[] = ['class' => ($one ?? $other)['class'] ?? '', 'known' => $one['span'] ?? null, 'said' => $other['span'] ?? null];
        }
        usort($pairs, static fn (array $a, array $b): int => [min($a['known']->start ?? PHP_INT_MAX, $a['said']->start ?? PHP_INT_MAX), $a['class']] <=> [min($b['known']->start ?? PHP_INT_MAX, $b['said']->start ?? PHP_INT_MAX), $b['class']]);
        $answers = $tags = [];
        foreach (array_keys($knownAnswers + $saidAnswers) as $key) {
            $answers[$key] = ['known' => $knownAnswers[$key] ?? null, 'said' => $saidAnswers[$key] ?? null];
        }
        foreach (array_unique([...$knownTags, ...$saidTags]) as $key) {
            $tags[$key] = ['known' => in_array($key, $knownTags, true), 'said' => in_array($key, $saidTags, true)];
        }
        ksort($answers);
        ksort($tags);

        return new self($pairs, $answers, $tags);
    }

    /**
     * @param  list<array{class: string, span: Span}>  $known
     * @param  list<array{class: string, span: Span}>  $said
     * @return list<array{?array{class: string, span: Span}, ?array{class: string, span: Span}}>
     */
    private static function near(array $known, array $said): array
    {
        usort($known, static fn (array $a, array $b): int => $a['span']->start <=> $b['span']->start);
        usort($said, static fn (array $a, array $b): int => $a['span']->start <=> $b['span']->start);
        $candidates = [];
        $from = 0;
        foreach ($said as $j => $other) {
            for ($i = $from; $i < count($known) && $known[$i]['span']->start < $other['span']->end; $i++) {
                if (count($candidates) < self::MOST && $known[$i]['class'] === $other['class'] && $known[$i]['span']->overlaps($other['span'])) {
                    $common = min($known[$i]['span']->end, $other['span']->end) - max($known[$i]['span']->start, $other['span']->start);
                    $candidates[] = [2 * $common / ($known[$i]['span']->length() + $other['span']->length()), $i, $j];
                }
            }
            while ($from < count($known) && $known[$from]['span']->end <= $other['span']->start) {
                $from++;
            }
        }
        usort($candidates, static fn (array $a, array $b): int => [$b[0], $a[1], $a[2]] <=> [$a[0], $b[1], $b[2]]);
        $pairs = $takenKnown = $takenSaid = [];
        foreach ($candidates as [, $i, $j]) {
            if (! isset($takenKnown[$i]) && ! isset($takenSaid[$j])) {
                $takenKnown[$i] = $takenSaid[$j] = true;
                $pairs[] = [$known[$i], $said[$j]];
            }
        }
        foreach ($known as $i => $one) {
            if (! isset($takenKnown[$i])) {
                $pairs[] = [$one, null];
            }
        }
        foreach ($said as $j => $other) {
            if (! isset($takenSaid[$j])) {
                $pairs[] = [null, $other];
            }
        }

        return $pairs;
    }

    /**
     * Of each question whose answer is known whether it was answered so: a number however it is written, choices in any order.
     *
     * @return array<string, bool>
     */
    public function agreed(): array
    {
        $agreed = [];
        foreach ($this->answers as $key => ['known' => $known, 'said' => $said]) {
            if ($known !== null) {
                $agreed[$key] = $said !== null && ($known->equals($said) || self::same($known->value, $said->value));
            }
        }

        return $agreed;
    }

    private static function same(mixed $known, mixed $said): bool
    {
        if (is_array($known) && is_array($said)) {
            sort($known);
            sort($said);

            return $known === $said;
        }

        return (is_int($known) || is_float($known)) && (is_int($said) || is_float($said)) && (float) $known === (float) $said;
    }

    /** @return array<string, array{known: int, said: int, exact: int, overlapping: int}> of each class */
    public function counts(): array
    {
        $counts = [];
        foreach ($this->pairs as ['class' => $class, 'known' => $known, 'said' => $said]) {
            $counts[$class] ??= ['known' => 0, 'said' => 0, 'exact' => 0, 'overlapping' => 0];
            $counts[$class]['known'] += $known === null ? 0 : 1;
            $counts[$class]['said'] += $said === null ? 0 : 1;
            $counts[$class]['overlapping'] += $known === null || $said === null ? 0 : 1;
            $counts[$class]['exact'] += $known !== null && $said !== null && $known->start === $said->start && $known->end === $said->end ? 1 : 0;
        }
        ksort($counts);

        return $counts;
    }

    /**
     * As it is kept beside a text.
     *
     * @return array{pairs: list<array{class: string, known: ?array{int, int}, said: ?array{int, int}}>, answers: array<string, array{known: ?array<string, mixed>, said: ?array<string, mixed>, agreed: ?bool}>, tags: array<string, array{known: bool, said: bool}>} places in code points, [start, end); agreed: null where nothing is known
     */
    public function toArray(): array
    {
        $ends = static fn (?Span $span): ?array => $span === null ? null : [$span->start, $span->end];
        $agreed = $this->agreed();
        $answers = [];
        foreach ($this->answers as $key => ['known' => $known, 'said' => $said]) {
            $answers[$key] = ['known' => $known?->toArray(), 'said' => $said?->toArray(), 'agreed' => $agreed[$key] ?? null];
        }

        return ['pairs' => array_map(static fn (array $pair): array => ['class' => $pair['class'], 'known' => $ends($pair['known']), 'said' => $ends($pair['said'])], $this->pairs), 'answers' => $answers, 'tags' => $this->tags];
    }

    /**
     * What is wrong with what was said, one name for each thing: the same thing wrong twice has the same name.
     *
     * @param  array{pairs: list<array{class: string, known: ?array{int, int}, said: ?array{int, int}}>, answers: array<string, array{agreed: ?bool, ...}>, tags: array<string, array{known: bool, said: bool}>}  $kept  as toArray() has it
     * @return list<string>
     */
    public static function errors(array $kept): array
    {
        $errors = [];
        foreach ($kept['pairs'] as ['class' => $class, 'known' => $known, 'said' => $said]) {
            if ($known !== $said) {
                $errors[] = "{$class} ".($known === null ? '' : implode('-', $known)).' '.($said === null ? '' : implode('-', $said));
            }
        }
        foreach ($kept['answers'] as $key => $answer) {
            if ($answer['agreed'] === false) {
                $errors[] = "question:{$key}";
            }
        }
        foreach ($kept['tags'] as $key => $tag) {
            if ($tag['known'] !== $tag['said']) {
                $errors[] = "tag:{$key}";
            }
        }

        return $errors;
    }
}
