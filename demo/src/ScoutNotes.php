<?php

declare(strict_types=1);

namespace Skeno\Demo;

/**
 * The demo project "Scout notes": what scouts wrote on their rounds, two to six sentences each, put together from parts so that the truth about
 * every word is known; and the work done on it so far.
 */
final class ScoutNotes
{
    private const PESTS = ['woolly aphids', 'codling moth larvae', 'red spider mites', 'leafhoppers', 'sawfly', 'winter moth caterpillars', 'woolly aphid', 'mites'];

    private const VARIETIES = ['Larkmoor Russet', 'Ashdown Red', 'Pale Ida', 'Winterholt'];

    private const BLOCKS = ['north terrace', 'old wall', 'slope', 'nursery'];

    private const TREATMENTS = ['soap spray', 'sticky bands', 'copper wash', 'nematodes', 'pheromone dispensers'];

    private const DATES = ['on Monday', 'this morning', '14 May', 'last week', 'on 2 June', 'Thursday'];

    /** Sentences with the parts that are marked: {count}, {pest}, …; [block: … ] is a span round others. */
    private const SENTENCES = [
        'Found {count} {pest} on the {variety} in the {block}.',
        'About {count} {pest} per tree in the {block}, worst at the far end.',
        '{pest} again, {count} on one shoot.',
        'No {pest} this time.',
        'The [block:{variety} rows] look clean.',
        'Put {treatment} down {date}, row 4 to 9.',
        '{date} we tried {treatment} against {pest} in the [block:upper part of the {block}].',
        'Leaves curl, I think {pest}, counted {count}.',
        'Bins are still in the way by the gate.',
        'Wind from the river, hard to see anything.',
        '{variety} has set well; {count} {pest} on ten trees is nothing yet.',
        'Needs {treatment} before the weekend or it spreads to the {block}.',
        "Can't read the trap card, it fell into the grass.",
        'Ladybirds are doing their work.',
    ];

    /** @return list<array{path: string, seed: string}> */
    public static function plan(int $notes): array
    {
        $plan = [];
        for ($i = 1; $i <= $notes; $i++) {
            $plan[] = ['path' => sprintf('week %d/note-%03d.txt', 1 + intdiv(($i - 1) * 4, max(1, $notes)), $i), 'seed' => "note/{$i}"];
        }

        return $plan;
    }

    /**
     * @return array{text: string, spans: list<array{class: string, start: int, end: int}>, joins: list<array{relation: string, from: int, to: int}>, urgency: string} offsets in code points; joins by the places of the spans
     */
    public static function note(Chance $chance): array
    {
        $text = '';
        $spans = $joins = [];
        $urgency = 'routine';
        $sentences = $chance->int(2, 6);
        for ($n = 0; $n < $sentences; $n++) {
            $first = count($spans);
            $text .= $text === '' ? '' : ($n === 3 && $chance->yes(0.5) ? "\n" : ' ');
            $sentence = $chance->one(self::SENTENCES);
            self::append($text, $spans, $sentence, $chance);
            $urgency = str_contains($sentence, 'Needs') ? 'today' : ($urgency === 'routine' && str_contains($sentence, 'spreads') ? 'soon' : (str_contains($sentence, 'worst') && $urgency === 'routine' ? 'soon' : $urgency));
            array_push($joins, ...self::joined($spans, $first));
        }

        return ['text' => $text, 'spans' => $spans, 'joins' => $joins, 'urgency' => $urgency];
    }

    /** @param  list<array{class: string, start: int, end: int}>  $spans */
    private static function append(string &$text, array &$spans, string $sentence, Chance $chance): void
    {
        $begun = [];
        $start = mb_strlen($text);
        foreach (preg_split('/(\{\w+\}|\[\w+:|\])/', $sentence, -1, PREG_SPLIT_DELIM_CAPTURE) ?: [] as $part) {
            $at = mb_strlen($text);
            if (preg_match('/^\[(\w+):$/', $part, $found) === 1) {
                $begun[] = [$found[1], $at];
            } elseif ($part === ']' && $begun !== []) {
                [$class, $from] = array_pop($begun);
                $spans[] = ['class' => $class, 'start' => $from, 'end' => $at];
            } elseif (preg_match('/^\{(\w+)\}$/', $part, $found) === 1) {
                $word = self::word($found[1], $chance);
                $word = $at === $start ? mb_strtoupper(mb_substr($word, 0, 1)).mb_substr($word, 1) : $word;
                $text .= $word;
                $spans[] = ['class' => $found[1], 'start' => $at, 'end' => mb_strlen($text)];
            } else {
                $text .= $part;
            }
        }
    }

    private static function word(string $class, Chance $chance): string
    {
        return match ($class) {
            'pest' => $chance->one(self::PESTS),
            'variety' => $chance->one(self::VARIETIES),
            'block' => $chance->one(self::BLOCKS),
            'treatment' => $chance->one(self::TREATMENTS),
            'date' => $chance->one(self::DATES),
            default => (string) $chance->int(2, 60),
        };
    }

    /**
     * @param  list<array{class: string, start: int, end: int}>  $spans
     * @param  int  $first  of the sentence
     * @return list<array{relation: string, from: int, to: int}>
     */
    private static function joined(array $spans, int $first): array
    {
        $of = static function (string $class) use ($spans, $first): ?int {
            foreach ($spans as $i => $span) {
                if ($i >= $first && $span['class'] === $class) {
                    return $i;
                }
            }

            return null;
        };
        $joins = [];
        foreach ([['counted', 'count', 'pest'], ['against', 'treatment', 'pest']] as [$relation, $from, $to]) {
            [$a, $b] = [$of($from), $of($to)];
            if ($a !== null && $b !== null) {
                $joins[] = ['relation' => $relation, 'from' => $a, 'to' => $b];
            }
        }

        return $joins;
    }

    /**
     * The work done so far: two thirds are labelled. Mei is careful, Ravi takes the word before a pest along now and then, Aoife overlooks varieties.
     *
     * @param  array<string, array{text: string, spans: list<array{class: string, start: int, end: int}>, joins: list<array{relation: string, from: int, to: int}>, urgency: string}>  $truth  by path
     * @return list<array<string, mixed>>
     */
    public static function work(array $truth): array
    {
        $chance = new Chance('notes');
        $work = [];
        $people = Labeller::cases();
        $paths = array_keys($truth);
        foreach (array_slice($paths, 0, (int) round(count($paths) * 0.66)) as $i => $path) {
            $person = $people[$i % 3];
            [$marks, $missed] = self::marks($person, $truth[$path], $chance);
            $entry = ['path' => $path, 'labeller' => $person->value, 'days_ago' => 6 - intdiv($i * 7, max(1, count($paths))), 'seconds' => 12 + 4 * count($marks), 'marks' => $marks, 'said' => ['answers' => ['urgency' => ['value' => $truth[$path]['urgency']]], 'tags' => []]];
            if ($i < count($paths) * 0.55) {
                $entry += $missed === null || $i % 4 !== 2 ? ['decision' => 'accept'] : ['decision' => 'return', 'reason' => 'Varieties too, also where they name a block.', 'pins' => [['offset' => $missed, 'text' => 'a variety']]];
            }
            $work[] = $entry;
        }

        return $work;
    }

    /**
     * @param  array{text: string, spans: list<array{class: string, start: int, end: int}>, joins: list<array{relation: string, from: int, to: int}>, urgency: string}  $note
     * @return array{list<array<string, mixed>>, ?int} marks, relations between them behind them by their places; and where something was missed
     */
    private static function marks(Labeller $person, array $note, Chance $chance): array
    {
        $marks = $place = [];
        $missed = null;
        foreach ($note['spans'] as $i => $span) {
            if ($person === Labeller::Aoife && $span['class'] === 'variety' && $chance->yes(0.5)) {
                $missed ??= $span['start'];

                continue;
            }
            $start = $span['start'];
            if ($person === Labeller::Ravi && $span['class'] === 'block' && $start > 4 && mb_substr($note['text'], $start - 4, 4) === 'the ' && $chance->yes(0.4)) {
                $start -= 4;
            }
            $place[$i] = count($marks);
            $marks[] = ['class' => $span['class'], 'kind' => 'span', 'geometry' => ['start' => $start, 'end' => $span['end']], 'answers' => []];
        }
        foreach ($note['joins'] as $join) {
            if (isset($place[$join['from']], $place[$join['to']])) {
                $marks[] = ['class' => $join['relation'], 'kind' => 'relation', 'between' => [$place[$join['from']], $place[$join['to']]], 'geometry' => [], 'answers' => []];
            }
        }

        return [$marks, $missed];
    }
}
