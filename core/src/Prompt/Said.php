<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

/** What a model has said, before anybody has read it. */
final readonly class Said
{
    /**
     * @param  ?int  $in  tokens that were read, as the server counts; null: it does not say
     * @param  ?int  $out  tokens that were written
     * @param  ?string  $fault  why it is not all that was asked for
     */
    public function __construct(public string $words, public ?int $in, public ?int $out, public ?string $fault)
    {
    }
}
