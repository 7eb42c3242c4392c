<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\InvalidValue;

/**
 * Puts what was said under one codebook into the words of the next. The same functions count what a change would do and do
 * it, so the two can't differ.
 */
final readonly class Translation
{
    /** @throws InvalidValue when the mapping leads to something the new codebook has not */
    public function __construct(public Codebook $old, public Codebook $new, public Mapping $mapping)
    {
        foreach ($mapping->rules as $address => $to) {
            if ($to !== null && ! $this->leadsSomewhere($address, $to)) {
                throw InvalidValue::at("mapping.{$address}", $to, 'something the new codebook has');
            }
        }
    }

    /** @return array{?string, list<Passage>} the class's key in the new codebook, null when it is taken away; its old one when it is an orphan */
    public function class(string $key): array
    {
        $to = $this->mapping->of("class:{$key}", $key);

        return $this->word("class:{$key}", $key, $to, $this->old->class($key)?->name, $to === null ? null : $this->new->class($to)?->name, $to !== null && $this->old->class($to) !== null);
    }

    /** @return array{?string, list<Passage>} as for a class */
    public function tag(string $key): array
    {
        $to = $this->mapping->of("tag:{$key}", $key);

        return $this->word("tag:{$key}", $key, $to, ($this->old->tags[$key] ?? null)?->name, $to === null ? null : ($this->new->tags[$to] ?? null)?->name, isset($this->old->tags[$to ?? '']));
    }

    /** @return array{?string, list<Passage>} as for a class */
    public function relation(string $key): array
    {
        $to = $this->mapping->of("relation:{$key}", $key);

        return $this->word("relation:{$key}", $key, $to, ($this->old->relations[$key] ?? null)?->name, $to === null ? null : ($this->new->relations[$to] ?? null)?->name, isset($this->old->relations[$to ?? '']));
    }

    /**
     * @param  string  $class  key in the old codebook
     * @return array{?string, list<Passage>} as for a class
     */
    public function node(string $class, string $node): array
    {
        $before = $this->old->class($class);
        $skeleton = $before === null ? null : $this->old->skeletonOf($before);
        $after = $this->new->class($this->class($class)[0] ?? '');
        $nodes = $after === null ? [] : $this->new->skeletonOf($after)->nodes ?? [];
        $address = 'node:'.($skeleton->key ?? $class)."/{$node}";
        $to = $this->mapping->of($address, $node);

        return $this->word($address, $node, $to, ($skeleton->nodes[$node] ?? null)?->name, $to === null ? null : ($nodes[$to] ?? null)?->name, isset($skeleton->nodes[$to ?? '']));
    }

    /**
     * @param  ?string  $class  key in the old codebook; null for an answer about the item
     * @return array{?string, ?Answer, list<Passage>} the question's key and the answer to it in the new codebook; null for both when it is taken away
     */
    public function answer(?string $class, string $question, Answer $answer): array
    {
        $own = "question:{$class}/{$question}";
        $address = $class !== null && $this->mapping->has($own) ? $own : "question:{$question}";
        $to = $this->mapping->of($address, $question);
        $before = $this->old->attributes[$question] ?? null;
        $after = $to === null ? null : $this->new->attributes[$to] ?? null;
        [$key, $passages] = $this->word($address, $question, $to, $before?->name, $after?->name, isset($this->old->attributes[$to ?? '']));
        if ($after === null) {
            return [$key, $key === null ? null : $answer, $passages];
        }
        if (! $this->isAsked($after, $class)) {
            return [$question, $answer, [new Passage(Fate::Orphaned, $class === null ? $address : $own, ($before->name ?? $question).($class === null ? '' : ' of '.($this->old->class($class)->name ?? $class)), null, false)]];
        }
        [$value, $more] = $this->value($question, $before, $after, $answer);

        return $value === null ? [null, null, [...$passages, ...$more]] : [$after->key, $value, [...$passages, ...$more]];
    }

    /**
     * What an orphan could become.
     *
     * @return list<array{key: string, name: string}>
     */
    public function choices(string $address): array
    {
        [$kind, $rest] = explode(':', $address, 2);
        $found = match ($kind) {
            'class' => $this->new->classes,
            'relation' => $this->new->relations,
            'tag' => array_filter($this->new->tags, fn (Tag $tag): bool => ($tag->scope === 'page') === (($this->old->tags[$rest] ?? null)?->scope === 'page')),
            'node' => $this->nodesFor(explode('/', $rest)[0]),
            'question' => array_filter($this->new->attributes, fn (Attribute $attribute): bool => ! str_contains($rest, '/') ? $this->isOfSameScope($attribute, $rest) : $this->isAsked($attribute, explode('/', $rest)[0])),
            default => $this->target(explode('=', $rest)[0])->options ?? [],
        };
        $choices = array_map(static fn (LabelClass|Relation|Attribute|Tag|Node|Option $entry): array => ['key' => $entry->key, 'name' => $entry->name], array_values($found));
        if ($kind === 'answer') {
            foreach ($this->target(explode('=', $rest)[0])->noValue ?? [] as $way) {
                $choices[] = ['key' => "?{$way->value}", 'name' => str_replace('_', ' ', $way->value)];
            }
        }

        return $choices;
    }

    /** The likeliest of the choices: the same name; else the only one that is new; else the most similar word; null when none is near. */
    public function guess(string $address, string $name): ?string
    {
        $choices = $this->choices($address);
        // a choice is shown with its question before it
        $name = str_starts_with($address, 'answer:') ? (string) preg_replace('~^.*: ~', '', $name) : $name;
        foreach ($choices as $choice) {
            if (mb_strtolower($choice['name']) === mb_strtolower($name)) {
                return $choice['key'];
            }
        }
        $known = match (explode(':', $address)[0]) {
            'class' => $this->old->classes,
            'tag' => $this->old->tags,
            'relation' => $this->old->relations,
            'question' => $this->old->attributes,
            'node' => $this->old->skeletons[explode('/', explode(':', $address)[1])[0]]->nodes ?? [],
            default => null,
        };
        $added = $known === null ? [] : array_values(array_filter($choices, static fn (array $choice): bool => ! isset($known[$choice['key']])));
        if (count($added) === 1) {
            return $added[0]['key'];
        }
        $best = null;
        $most = 60.0;
        foreach ($choices as $choice) {
            similar_text(mb_strtolower($choice['name']), mb_strtolower($name), $alike);
            if ($alike > $most) {
                [$best, $most] = [$choice['key'], $alike];
            }
        }

        return $best;
    }

    /** @return array{?string, list<Passage>} */
    private function word(string $address, string $key, ?string $to, ?string $nameBefore, ?string $nameAfter, bool $wasThere): array
    {
        $name = $nameBefore ?? $key;

        return match (true) {
            $to === null => [null, [new Passage(Fate::Removed, $address, $name, null, true)]],
            $nameAfter === null => [$key, [new Passage(Fate::Orphaned, $address, $name, null, false)]],
            $to !== $key => [$to, [new Passage($wasThere ? Fate::Moved : Fate::Renamed, $address, $name, $nameAfter === $name ? "{$nameAfter} ({$to})" : $nameAfter, true)]],
            $nameBefore !== null && $nameBefore !== $nameAfter => [$key, [new Passage(Fate::Renamed, $address, $name, $nameAfter, false)]],
            default => [$key, []],
        };
    }

    /** @return array{?Answer, list<Passage>} */
    private function value(string $question, ?Attribute $before, Attribute $after, Answer $answer): array
    {
        if ($answer->noValue !== null) {
            return $this->one("answer:{$question}=?{$answer->noValue->value}", "?{$answer->noValue->value}", $before, $after);
        }
        $choice = is_array($answer->value) ? $answer->value : (is_string($answer->value) && $before?->type === AttributeType::One ? [$answer->value] : null);
        if ($choice !== null && ($after->type === AttributeType::One || $after->type === AttributeType::Many)) {
            return $this->chosen($question, $before, $after, $answer, $choice);
        }
        $sameType = $before === null || $before->type === $after->type;
        if ($sameType && $after->objection($answer) === null) {
            return [$answer, []];
        }
        $address = "answer:{$question}=*";
        if ($this->mapping->has($address)) {
            return $this->one($address, '*', $before, $after);
        }
        $converted = $sameType ? null : $this->converted($before, $after, $answer);
        $shown = ($before->name ?? $question).': '.\Skeno\Core\InvalidValue::show($answer->value);

        return $converted === null
            ? [$answer, [new Passage(Fate::Orphaned, $address, $shown, null, false)]]
            : [$converted, [new Passage(Fate::Converted, $address, $before === null ? $question : $before->name, $after->type->value, true)]];
    }

    /**
     * @param  list<string>  $choice
     * @return array{?Answer, list<Passage>}
     */
    private function chosen(string $question, ?Attribute $before, Attribute $after, Answer $answer, array $choice): array
    {
        $passages = $keys = [];
        $way = null;
        foreach ($choice as $option) {
            [$one, $more] = $this->one("answer:{$question}={$option}", $option, $before, $after);
            array_push($passages, ...$more);
            $way = $one->noValue ?? $way;
            if ($one !== null && is_string($one->value)) {
                $keys[] = $one->value;
            }
        }
        $keys = array_values(array_unique($keys));
        if (array_filter($passages, static fn (Passage $passage): bool => $passage->fate === Fate::Orphaned) !== []) {
            return [$answer, $passages];
        }
        if ($keys === []) {
            return [$way === null ? null : Answer::none($way), $passages];
        }
        if ($after->type === AttributeType::Many) {
            return [Answer::of($keys), is_array($answer->value) ? $passages : [...$passages, new Passage(Fate::Converted, "answer:{$question}=*", $before->name ?? $question, 'several choices', true)]];
        }
        if (count($keys) === 1) {
            return [Answer::of($keys[0]), is_string($answer->value) ? $passages : [...$passages, new Passage(Fate::Converted, "answer:{$question}=*", $before->name ?? $question, 'one choice', true)]];
        }
        $address = "answer:{$question}=*";

        return $this->mapping->has($address)
            ? $this->one($address, '*', $before, $after)
            : [$answer, [...$passages, new Passage(Fate::Orphaned, $address, ($before->name ?? $question).': several at once', null, false)]];
    }

    /** @return array{?Answer, list<Passage>} */
    private function one(string $address, string $word, ?Attribute $before, Attribute $after): array
    {
        $to = $this->mapping->of($address, $word);
        $was = $this->optionName($before, $word);
        $is = $to === null ? null : $this->optionName($after, $to);
        [$key, $passages] = $this->word($address, $word, $to, $was, $is, $this->optionName($before, $to ?? '') !== null);
        $name = $before->name ?? $after->name;

        return [$key === null || $key === '*' ? null : self::answerOf($key), array_map(static fn (Passage $passage): Passage => new Passage($passage->fate, $passage->address, "{$name}: {$passage->from}", $passage->to, $passage->rewrites), $passages)];
    }

    private static function answerOf(string $key): Answer
    {
        return str_starts_with($key, '?') ? Answer::none(NoValue::from(substr($key, 1))) : Answer::of($key);
    }

    private function optionName(?Attribute $attribute, string $key): ?string
    {
        if (str_starts_with($key, '?')) {
            $way = NoValue::tryFrom(substr($key, 1));

            return $attribute !== null && $way !== null && in_array($way, $attribute->noValue, true) ? str_replace('_', ' ', $way->value) : null;
        }
        foreach ($attribute->options ?? [] as $option) {
            if ($option->key === $key) {
                return $option->name;
            }
        }

        return null;
    }

    /** The same in another type, where that loses nothing. */
    private function converted(?Attribute $before, Attribute $after, Answer $answer): ?Answer
    {
        $value = $answer->value;
        $words = match (true) {
            is_bool($value) => $value ? 'yes' : 'no',
            is_array($value) => implode(', ', array_map(fn (string $key): string => $this->optionName($before, $key) ?? $key, $value)),
            is_string($value) => $this->optionName($before, $value) ?? $value,
            default => (string) $value,
        };
        $tries = match ($after->type) {
            AttributeType::Text => [$words],
            AttributeType::Number => is_string($value) && is_numeric($value) ? [$value + 0] : [],
            AttributeType::YesNo => in_array(mb_strtolower($words), ['yes', 'no'], true) ? [mb_strtolower($words) === 'yes'] : [],
            AttributeType::One => array_values(array_map(static fn (Option $option): string => $option->key, array_filter($after->options, static fn (Option $option): bool => mb_strtolower($option->name) === mb_strtolower($words)))),
            default => [],
        };

        return isset($tries[0]) && $after->objection(Answer::of($tries[0])) === null ? Answer::of($tries[0]) : null;
    }

    /** @param  ?string  $class  key in the old codebook */
    private function isAsked(Attribute $attribute, ?string $class): bool
    {
        if ($class === null) {
            return $attribute->scope !== Scope::Object;
        }
        $after = $this->new->class($this->class($class)[0] ?? '');

        return $after !== null && in_array($attribute->key, $after->attributes, true);
    }

    private function isOfSameScope(Attribute $attribute, string $question): bool
    {
        return $attribute->scope === ($this->old->attributes[$question] ?? null)?->scope;
    }

    /** The question that takes over the answers of an old one. */
    private function target(string $question): ?Attribute
    {
        return $this->new->attributes[$this->mapping->of("question:{$question}", $question) ?? ''] ?? null;
    }

    /** @return array<string, Node> */
    private function nodesFor(string $skeleton): array
    {
        foreach ($this->old->classes as $class) {
            $after = $class->skeleton === $skeleton ? $this->new->class($this->class($class->key)[0] ?? '') : null;
            if ($after !== null) {
                return $this->new->skeletonOf($after)->nodes ?? [];
            }
        }

        return [];
    }

    private function leadsSomewhere(string $address, string $to): bool
    {
        [$kind, $rest] = explode(':', $address, 2);

        return match ($kind) {
            'class' => $this->new->class($to) !== null,
            'tag' => isset($this->new->tags[$to]),
            'relation' => isset($this->new->relations[$to]),
            'question' => isset($this->new->attributes[$to]),
            'node' => isset($this->nodesFor(explode('/', $rest)[0])[$to]),
            // a question of one class can go elsewhere, so its choices are looked at wherever they are
            default => array_filter($this->new->attributes, fn (Attribute $attribute): bool => $this->optionName($attribute, $to) !== null) !== [],
        };
    }
}
