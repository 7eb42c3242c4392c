<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Texts;

use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;

/** A text that a file holds, with what the file says of it. */
final readonly class ComingText
{
    /**
     * @param  string  $name  within its file; empty: the file names none
     * @param  string  $place  in the file, for messages, such as `line 3`
     * @param  array<string, string>  $facts
     * @param  list<Mark>  $marks
     * @param  ?Labelled  $labelled  null: the file does not say
     */
    public function __construct(public string $name, public string $place, public Text $text, public array $facts = [], public array $marks = [], public ?Labelled $labelled = null, public ?ItemAnswers $said = null, public ?Part $part = null)
    {
    }
}
