<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;

/**
 * The rule of a lot that suggestions from a confidence on count as looked at once a picture has been seen whole: which of them become labels. One
 * the check has anything to say about never does, since that is for a person to decide.
 */
final readonly class SeenWhole
{
    /** @throws InvalidValue */
    public function __construct(private float $from)
    {
        if (! ($from > 0 && $from <= 1)) {
            throw InvalidValue::at('sure', $from, 'a confidence above 0, at most 1');
        }
    }

    /**
     * @param  list<Mark>  $there  labels of the layer
     * @param  list<Mark>  $suggested  and not decided
     * @return list<Mark> of those suggested
     */
    public function marks(MarkCheck $check, array $there, array $suggested, Extent $on, ItemAnswers $said): array
    {
        $taken = array_values(array_filter($suggested, fn (Mark $mark): bool => $mark->confidence !== null && $mark->confidence >= $this->from));
        $before = array_map(self::said(...), array_filter($check->item($there, $on, $said), static fn (Finding $finding): bool => $finding->stops));
        while ($taken !== []) {
            $findings = $check->item([...$there, ...$taken], $on, $said);
            $about = array_flip(array_filter(array_map(static fn (Finding $finding): ?string => $finding->mark, $findings), is_string(...)));
            $clean = array_values(array_filter($taken, static fn (Mark $mark): bool => ! isset($about[$mark->id])));
            if (count($clean) === count($taken)) {
                // what stops the item as a whole, such as too many objects, and did not before
                $stops = array_filter($findings, static fn (Finding $finding): bool => $finding->mark === null && $finding->stops && ! in_array(self::said($finding), $before, true));

                return $stops === [] ? $taken : [];
            }
            $taken = $clean;
        }

        return [];
    }

    /**
     * @param  list<Saying>  $suggested  and not decided
     * @return list<Saying> of those suggested
     */
    public function sayings(array $suggested): array
    {
        return array_values(array_filter($suggested, fn (Saying $saying): bool => $saying->confidence !== null && $saying->confidence >= $this->from));
    }

    private static function said(Finding $finding): string
    {
        return "{$finding->code} {$finding->message}";
    }
}
