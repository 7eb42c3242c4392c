<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/**
 * What a new version of a codebook does to labels made under the old one. Nothing that is in use may vanish by itself: what
 * has no place in the new version is an orphan and stops the change until a mapping says where it goes.
 */
final readonly class CodebookChange
{
    /** @param  list<array{passage: Passage, count: int}>  $effects  in the order of the fates */
    private function __construct(public array $effects, private Translation $translation)
    {
    }

    public static function of(Translation $translation, Census $census): self
    {
        $effects = [];
        foreach (self::passages($translation, $census) as [$passage, $count]) {
            if ($count > 0) {
                $key = "{$passage->fate->value} {$passage->address} {$passage->to}";
                $effects[$key] = ['passage' => $passage, 'count' => ($effects[$key]['count'] ?? 0) + $count];
            }
        }
        $order = array_flip(array_column(Fate::cases(), 'value'));
        usort($effects, static fn (array $a, array $b): int => [$order[$a['passage']->fate->value], $a['passage']->address] <=> [$order[$b['passage']->fate->value], $b['passage']->address]);

        return new self($effects, $translation);
    }

    /** Whether stored marks must be written anew. */
    public function rewrites(): bool
    {
        return array_filter($this->effects, static fn (array $effect): bool => $effect['passage']->rewrites) !== [];
    }

    /** @return list<array{address: string, name: string, count: int, message: string, choices: list<array{key: string, name: string}>, guess: ?string}> */
    public function orphans(): array
    {
        $orphans = [];
        foreach ($this->effects as ['passage' => $passage, 'count' => $count]) {
            if ($passage->fate === Fate::Orphaned) {
                $orphans[] = [
                    'address' => $passage->address, 'name' => $passage->from, 'count' => $count, 'message' => self::sentence($passage, $count),
                    'choices' => $this->translation->choices($passage->address), 'guess' => $this->translation->guess($passage->address, $passage->from),
                ];
            }
        }

        return $orphans;
    }

    /** @return list<array{fate: string, address: string, count: int, message: string}> what becomes of everything else the change touches */
    public function report(): array
    {
        $report = [];
        foreach ($this->effects as ['passage' => $passage, 'count' => $count]) {
            if ($passage->fate !== Fate::Orphaned) {
                $report[] = ['fate' => $passage->fate->value, 'address' => $passage->address, 'count' => $count, 'message' => self::sentence($passage, $count)];
            }
        }

        return $report;
    }

    private static function sentence(Passage $passage, int $count): string
    {
        $what = match (explode(':', $passage->address)[0]) {
            'class' => $count === 1 ? 'mark' : 'marks',
            'relation' => $count === 1 ? 'relation' : 'relations',
            'tag' => $count === 1 ? 'tag' : 'tags',
            'node' => $count === 1 ? 'node' : 'nodes',
            default => $count === 1 ? 'answer' : 'answers',
        };

        return match ($passage->fate) {
            Fate::Renamed => "{$count} {$what} of \"{$passage->from}\" will be \"{$passage->to}\"",
            Fate::Moved => "{$count} {$what} of \"{$passage->from}\" will be joined with \"{$passage->to}\"",
            Fate::Converted => "{$count} {$what} to \"{$passage->from}\" will be written as {$passage->to}",
            Fate::Removed => "{$count} {$what} of \"{$passage->from}\" will be taken away",
            Fate::Orphaned => "{$count} {$what} of \"{$passage->from}\" would have no place",
            Fate::Doubtful => "{$count} {$what}: {$passage->from}",
        };
    }

    /** @return iterable<array{Passage, int}> */
    private static function passages(Translation $translation, Census $census): iterable
    {
        foreach ($census->marks as $class => $kinds) {
            $joins = $kinds[Shape::Relation->value] ?? 0;
            unset($kinds[Shape::Relation->value]);
            if ($joins > 0) {
                yield from self::relations($translation, $class, $joins);
            }
            foreach ($kinds === [] ? [] : $translation->class($class)[1] as $passage) {
                yield [$passage, array_sum($kinds)];
            }
            yield from self::doubts($translation, $class, $kinds, $census->answers[$class] ?? []);
        }
        $hasPlace = static fn (string $class): bool => $class === '' || $translation->new->class($translation->class($class)[0] ?? '') !== null;
        foreach (array_filter($census->answers, $hasPlace, ARRAY_FILTER_USE_KEY) as $class => $questions) {
            foreach ($questions as $question => $answers) {
                foreach ($answers as $json => $count) {
                    $answer = Answer::fromArray(json_decode((string) $json, true), $question);
                    foreach ($translation->answer($class === '' ? null : $class, $question, $answer)[2] as $passage) {
                        yield [$passage, $count];
                    }
                }
            }
        }
        foreach ($census->tags as $tag => $count) {
            foreach ($translation->tag($tag)[1] as $passage) {
                yield [$passage, $count];
            }
        }
        foreach (array_filter($census->nodes, $hasPlace, ARRAY_FILTER_USE_KEY) as $class => $nodes) {
            foreach ($nodes as $node => $count) {
                foreach ($translation->node($class, $node)[1] as $passage) {
                    yield [$passage, $count];
                }
            }
        }
    }

    /** @return iterable<array{Passage, int}> what becomes of relations between marks, and that some may join what may no longer be joined */
    private static function relations(Translation $translation, string $key, int $count): iterable
    {
        [$to, $passages] = $translation->relation($key);
        foreach ($passages as $passage) {
            yield [$passage, $count];
        }
        $before = $translation->old->relations[$key] ?? null;
        $after = $translation->new->relations[$to ?? ''] ?? null;
        if ($before === null || $after === null) {
            return;
        }
        foreach (['from' => [$before->from, $after->from], 'to' => [$before->to, $after->to]] as $end => [$old, $new]) {
            foreach ($old as $class) {
                $now = $translation->class($class)[0];
                if ($now !== null && $translation->new->class($now) !== null && ! in_array($now, $new, true)) {
                    yield [new Passage(Fate::Doubtful, "relation:{$key}", "{$after->name} no longer leads {$end} {$translation->new->nameOf($now)}; the check will say where one does", "{$end} {$class}", false), $count];
                }
            }
        }
    }

    /**
     * What stays but no longer keeps the rules: shapes the class is not drawn as any more, questions that are now required.
     *
     * @param  array<string, int>  $kinds
     * @param  array<string, array<string, int>>  $answers
     * @return iterable<array{Passage, int}>
     */
    private static function doubts(Translation $translation, string $key, array $kinds, array $answers): iterable
    {
        $before = $translation->old->class($key);
        $after = $translation->new->class($translation->class($key)[0] ?? '');
        if ($after === null) {
            return;
        }
        foreach ($kinds as $kind => $count) {
            $shape = Shape::tryFrom($kind);
            if ($shape !== null && ! $after->allows($shape) && ($before === null || $before->allows($shape))) {
                yield [new Passage(Fate::Doubtful, "class:{$key}", "{$after->name} is no longer drawn as {$shape->words()}; the check will say so", $kind, false), $count];
            }
        }
        $asked = $before === null ? [] : $translation->old->attributesOf($before);
        $required = array_map(static fn (Attribute $attribute): string => $attribute->key, array_filter($asked, static fn (Attribute $attribute): bool => $attribute->required));
        foreach ($translation->new->attributesOf($after) as $attribute) {
            if ($attribute->required && $attribute->when === [] && ! in_array($attribute->key, $required, true)) {
                $answered = array_sum(array_map(array_sum(...), array_intersect_key($answers, [$attribute->key => true])));
                yield [new Passage(Fate::Doubtful, "class:{$key}", "{$attribute->name} is now required of {$after->name} and not answered; the check will say so", $attribute->key, false), array_sum($kinds) - $answered];
            }
        }
    }
}
