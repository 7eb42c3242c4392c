<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/** Labels read for one picture. A reader may give several for the same picture; their marks add up. */
final readonly class ReadLabels
{
    /** Objects a reader gives at a time at most, so that a file of any size is read in little memory. */
    public const MOST = 20_000;

    /**
     * @param  list<Mark>  $marks
     * @param  ?ItemAnswers  $said  what the file says of the item as a whole
     * @param  ?Labelled  $labelled  what the file says of a picture without objects; null: it does not say
     */
    public function __construct(public KnownPicture $picture, public array $marks, public ?Labelled $labelled = null, public ?Part $part = null, public ?ItemAnswers $said = null)
    {
    }

    /**
     * Parts and wholes that a file names by its own ids. A whole that is not among them is none.
     *
     * @param  list<Mark>  $marks
     * @param  array<array-key, string>  $ids  mark id by id in the file
     * @param  array<string, int|string>  $wholes  id in the file of what a mark is a part of, by mark id
     * @return list<Mark>
     */
    public static function linked(array $marks, array $ids, array $wholes): array
    {
        return $wholes === [] ? $marks : array_map(static fn (Mark $mark): Mark => isset($wholes[$mark->id], $ids[$wholes[$mark->id]]) ? $mark->copy($mark->id, $ids[$wholes[$mark->id]]) : $mark, $marks);
    }
}
