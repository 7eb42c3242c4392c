<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

/** What a condition of a filter is about. */
enum ConditionKind: string
{
    /** a part of the path, without case */
    case Name = 'name';

    /** a regular expression on the path, without case */
    case Pattern = 're';
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
}
