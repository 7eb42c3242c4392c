<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

/** Something the check found, with the way to its place. */
final readonly class Finding
{
    /**
     * @param  string  $code  stable word, such as answer_missing
     * @param  bool  $stops  whether work can't be submitted with it; otherwise it is a doubt to look at
     * @param  ?string  $mark  id of the mark it leads to; null: the item as a whole
     * @param  ?string  $attribute  key of the question it leads to
     * @param  ?int  $place  on the item's axis it leads to
     */
    public function __construct(
        public string $code,
        public string $message,
        public bool $stops = true,
        public ?string $mark = null,
        public ?string $attribute = null,
        public ?int $place = null,
    ) {
    }

    /** @return array{code: string, message: string, stops: bool, mark: ?string, attribute: ?string, place: ?int} */
    public function toArray(): array
    {
        return ['code' => $this->code, 'message' => $this->message, 'stops' => $this->stops, 'mark' => $this->mark, 'attribute' => $this->attribute, 'place' => $this->place];
    }
}
