<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What is said of an item as a whole: answers to the questions asked of it, and tags. Each layer has its own. */
final readonly class ItemAnswers
{
    /** How an edit says that it is about the item as a whole. */
    public const KIND = 'item';

    /** Stretches of one item. */
    private const MOST = 5000;

    /**
     * @param  array<string, Answer>  $answers  by attribute key, sorted by key
     * @param  list<string>  $tags  keys, in the order they were put on, each once
     * @param  list<Stretch>  $stretches  of an item with an axis, in order of their beginning; those of one tag or question never lie over each other
     */
    private function __construct(public array $answers, public array $tags, public array $stretches = [])
    {
    }

    public static function none(): self
    {
        return new self([], []);
    }

    /**
     * @param  array<string, Answer>  $answers
     * @param  list<string>  $tags
     * @param  list<Stretch>  $stretches
     *
     * @throws InvalidValue when two of one tag or question lie over each other
     */
    public static function of(array $answers, array $tags, array $stretches = []): self
    {
        ksort($answers);

        return new self($answers, array_values(array_unique($tags)), self::ordered($stretches, 'stretches'));
    }

    /**
     * Reads `{answers?, tags?, stretches?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'item'): self
    {
        $fields = Fields::of($data, $path);
        $tags = $fields->strings('tags');
        if (count($tags) > 500 || count(array_unique($tags)) !== count($tags)) {
            throw InvalidValue::at($fields->path('tags'), $tags, 'each tag once, at most 500');
        }

        $stretches = [];
        foreach ($fields->has('stretches') ? $fields->list('stretches') : [] as $i => $stretch) {
            $stretches[] = Stretch::fromArray($stretch, $fields->path("stretches[{$i}]"));
        }
        if (count($stretches) > self::MOST) {
            throw InvalidValue::at($fields->path('stretches'), count($stretches), 'at most '.self::MOST.' stretches');
        }

        return new self(Mark::answers($fields), $tags, self::ordered($stretches, $fields->path('stretches')));
    }

    public function isEmpty(): bool
    {
        return $this->answers === [] && $this->tags === [] && $this->stretches === [];
    }

    /**
     * @param  list<Stretch>  $stretches
     * @return list<Stretch>
     *
     * @throws InvalidValue
     */
    private static function ordered(array $stretches, string $path): array
    {
        usort($stretches, static fn (Stretch $a, Stretch $b): int => [$a->first, $a->subject()] <=> [$b->first, $b->subject()]);
        $ends = [];
        foreach ($stretches as $stretch) {
            if (($ends[$stretch->subject()] ?? -1) >= $stretch->first) {
                throw InvalidValue::at($path, $stretch->toArray(), "stretches of {$stretch->key} that do not lie over each other");
            }
            $ends[$stretch->subject()] = $stretch->last;
        }

        return $stretches;
    }

    /** @return array{answers?: array<string, array<string, mixed>>, tags?: list<string>, stretches?: list<array<string, mixed>>} */
    public function toArray(): array
    {
        return ($this->answers === [] ? [] : ['answers' => array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers)])
            + ($this->tags === [] ? [] : ['tags' => $this->tags])
            + ($this->stretches === [] ? [] : ['stretches' => array_map(static fn (Stretch $stretch): array => $stretch->toArray(), $this->stretches)]);
    }
}
