<?php

declare(strict_types=1);

namespace Skeno\StandIns;

/**
 * Stands in for a chat model that reads scouts' notes. It goes by words and by what the prompt says of each class, knows nothing of any truth,
 * and errs as such models do: offsets in another measure, classes nobody asked for, words round the JSON, words that are not in the text, a
 * reply that breaks off. What it says of a text under a prompt is always the same.
 */
final class NoteReader
{
    private const PEST = '(?:woolly |codling |winter |red |spider )*(?:moth )?(?:aphids?|mites?|larvae|caterpillars?|leafhoppers?|sawfly|weevils?)';

    private const TREATMENT = '(?:\w+ )?(?:spray|bands|wash|dispensers)|nematodes';

    private const DAY = '(?:(?:Mon|Tues|Wednes|Thurs|Fri|Satur|Sun)day|\d{1,2} (?:May|June|July)|this morning|last week)';

    private const PLACE = '(?:north terrace|old wall|slope|nursery|gate)';

    /** What it answers: the content of its message. */
    public function reply(string $prompt, string $text): string
    {
        $whim = hash('xxh3', $prompt."\0".$text);
        $luck = hexdec(substr($whim, 0, 4)) % 100;
        $asked = $this->asked($prompt);
        $reply = [];
        $classes = array_intersect_key($this->rules($prompt), $asked);
        if ($classes !== []) {
            $reply['spans'] = $this->spans($classes, $text, $prompt, $luck);
        }
        if (isset($asked['urgency'])) {
            // a name in place of a key now and then
            $reply['answers'] = ['urgency' => $luck % 9 === 0 ? ucfirst($this->urgency($text, $prompt)) : $this->urgency($text, $prompt)];
        }
        $json = (string) json_encode($reply, JSON_UNESCAPED_UNICODE);

        return match (true) {
            $luck < 3 => substr($json, 0, intdiv(strlen($json), 2)),
            $luck < 12 => "Here is what the note says:\n```json\n{$json}\n```",
            default => $json,
        };
    }

    /** @return array<string, true> keys in the prompt: what stands before a colon at the beginning of a line */
    private function asked(string $prompt): array
    {
        preg_match_all('/^\s*([a-z][a-z0-9_-]*): /m', $prompt, $found);

        return array_fill_keys($found[1], true);
    }

    /** @return array<string, string> a pattern for each class; a prompt that says more gets one that is nearer to what is meant */
    private function rules(string $prompt): array
    {
        $says = static fn (string $words): bool => stripos($prompt, $words) !== false;

        return [
            'pest' => '/\b'.self::PEST.'\b/iu',
            'count' => $says('number alone') ? ($says('row') ? '/(?<!row )(?<!to )\b\d+\b(?! (?:May|June|July))/u' : '/\b\d+\b(?! (?:May|June|July))/u') : '/\b(?:about )?\d+\b/iu',
            'variety' => $says('also where it names') ? '/\b(?:\p{Lu}\p{Ll}+ (?:Russet|Red|Ida)|Winterholt)\b/u' : '/\b\p{Lu}\p{Ll}+ (?:Russet|Red|Ida)\b(?! rows)/u',
            'block' => $says('without the article') ? '/\b'.self::PLACE.'\b/u' : '/\bthe '.self::PLACE.'\b/u',
            'date' => $says('with its preposition') ? '/\b(?:on )?'.self::DAY.'\b/iu' : '/\b'.self::DAY.'\b/iu',
            'treatment' => '/\b(?:'.self::TREATMENT.')\b/iu',
        ];
    }

    /**
     * @param  array<string, string>  $rules
     * @return list<array<string, mixed>>
     */
    private function spans(array $rules, string $text, string $prompt, int $luck): array
    {
        $spans = [];
        foreach ($rules as $class => $pattern) {
            preg_match_all($pattern, $text, $found, PREG_OFFSET_CAPTURE);
            foreach ($found[0] as [$words, $byte]) {
                $before = substr($text, 0, $byte);
                $start = mb_strlen($before);
                $of = hexdec(substr(hash('xxh3', "{$class} {$byte} {$text}"), 0, 4)) % 100;
                if ($of < 5) {
                    // overlooked
                    continue;
                }
                $spans[] = match (true) {
                    // the measure of another language, or a guess
                    $of < 20 => ['class' => $class, 'text' => $words, 'start' => strlen(mb_convert_encoding($before, 'UTF-16LE', 'UTF-8')) / 2, 'end' => $start + strlen($words)],
                    $of < 45 => ['class' => $class, 'text' => $words, 'start' => $start + 1 + $of % 3, 'end' => $start + mb_strlen($words) + 2],
                    $of < 48 => ['class' => $class === 'pest' ? 'insect' : "{$class}_name", 'text' => $words, 'start' => $start, 'end' => $start + mb_strlen($words)],
                    $of < 52 => ['class' => ucfirst($class), 'text' => mb_strtolower($words), 'start' => $start, 'end' => $start + mb_strlen($words)],
                    default => ['class' => $class, 'text' => $words, 'start' => $start, 'end' => $start + mb_strlen($words)],
                };
            }
        }
        if ($luck % 25 === 7) {
            // what would go well with the rest, and is not there
            $spans[] = ['class' => array_key_first($rules), 'text' => 'grey weevils', 'start' => 3, 'end' => 15];
        }

        return $spans;
    }

    private function urgency(string $text, string $prompt): string
    {
        return match (true) {
            preg_match('/\b(?:needs|before the weekend)\b/i', $text) === 1 => 'today',
            preg_match('/\b(?:worst|spreads)\b/i', $text) === 1 => 'soon',
            // without being told when to keep calm it does not
            stripos($prompt, 'routine unless') === false && preg_match('/\bagain\b/i', $text) === 1 => 'soon',
            default => 'routine',
        };
    }
}
