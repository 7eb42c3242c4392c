<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Conll;

/** One text of a CoNLL file, filled line by line. */
final class Document
{
    /** Bytes of the tokens of one text at most. */
    public const LONGEST = 20_000_000;

    /** @var list<string> */
    public array $tokens = [];

    /** @var list<?string> null where a line has none */
    public array $tags = [];

    /** @var list<int> tokens of each sentence that has ended */
    public array $sentences = [];

    private int $open = 0;

    private int $bytes = 0;

    /**
     * @param  int  $line  at which it begins
     * @param  bool  $announced  by a line of its own: it is a text also without tokens
     */
    public function __construct(public readonly int $line, private readonly bool $announced)
    {
    }

    public function add(string $token, ?string $tag): void
    {
        $this->bytes += strlen($token) + 1;
        // what is too long is refused as a whole: no more of it is kept
        if (! $this->isTooLong()) {
            $this->tokens[] = $token;
            $this->tags[] = $tag;
            $this->open++;
        }
    }

    public function endSentence(): void
    {
        if ($this->open > 0) {
            $this->sentences[] = $this->open;
            $this->open = 0;
        }
    }

    public function isThere(): bool
    {
        return $this->announced || $this->tokens !== [];
    }

    public function isTooLong(): bool
    {
        return $this->bytes > self::LONGEST;
    }
}
