<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

/** What a condition of a filter is about. */
enum ConditionKind: string
{
    /** a part of the path, without case */
    case Name = 'name';

    /** words of a text, without case of plain letters */
    case Words = 'words';

    /** a regular expression on the path, without case */
    case Pattern = 're';

    /** a regular expression on what a text says, without case */
    case WordsPattern = 're-words';
    case State = 'state';
    case Set = 'set';
    case Tag = 'tag';

    /** a class of which there is a mark */
    case LabelClass = 'class';

    /** an answer about the item, or to a question about one of its objects */
    case Answer = 'answer';

    /** objects, nothing there, or nobody has looked */
    case Labelled = 'labelled';

    /** the part of a split the data came with */
    case Part = 'part';

    /** a fact of one's own about the picture, see FactsTable */
    case Fact = 'fact';

    /** seconds a clip lasts, such as `>=10` */
    case Duration = 'duration';

    /** how many tracks there are, such as `>=3` */
    case Tracks = 'tracks';

    /** per cent of the required answers that are given, such as `<=99`; where none is required, 100 */
    case Answered = 'answered';

    /** Whether it compares a number. */
    public function isAmount(): bool
    {
        return $this === self::Duration || $this === self::Tracks || $this === self::Answered;
    }
}
