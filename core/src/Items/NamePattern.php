<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Closure;
use Skeno\Core\InvalidValue;

/** A regular expression on names, with limits: what somebody types must not keep the server busy. */
final readonly class NamePattern
{
    private const LONGEST = 200;

    /** Steps for one name; patterns that need more go round in circles. */
    private const STEPS = 20_000;

    private const SECONDS = 1.0;

    private function __construct(private string $pattern, private string $said)
    {
    }

    /** @throws InvalidValue when it is no regular expression */
    public static function of(string $said): self
    {
        if ($said === '' || strlen($said) > self::LONGEST) {
            throw InvalidValue::at('re', mb_strimwidth($said, 0, 60, '…'), 'a regular expression of 1 to '.self::LONGEST.' characters');
        }
        // a delimiter no name and no sensible pattern has; a line's limits count inside the pattern, so nobody can lift them from within
        $pattern = "\x01".str_replace("\x01", '', $said)."\x01iu";
        if (@preg_match($pattern, '') === false) {
            throw InvalidValue::at('re', $said, 'a regular expression: '.str_replace('preg_match(): ', '', error_get_last()['message'] ?? 'this is none'));
        }

        return new self($pattern, $said);
    }

    /**
     * @param  iterable<int, string>  $names
     * @param  Closure(): float  $clock  seconds
     * @return array<int, true> keys of those it matches
     *
     * @throws InvalidValue when it takes too long
     */
    public function among(iterable $names, Closure $clock): array
    {
        $limit = ini_set('pcre.backtrack_limit', (string) self::STEPS);
        try {
            $until = $clock() + self::SECONDS;
            $found = [];
            $n = 0;
            foreach ($names as $key => $name) {
                $matches = preg_match($this->pattern, $name);
                if (($matches === false && preg_last_error() !== PREG_BAD_UTF8_ERROR) || (++$n % 500 === 0 && $clock() > $until)) {
                    throw InvalidValue::at('re', $this->said, 'a pattern that is quicker to decide; this one goes round in circles');
                }
                if ($matches === 1) {
                    $found[$key] = true;
                }
            }

            return $found;
        } finally {
            ini_set('pcre.backtrack_limit', (string) $limit);
        }
    }
}
