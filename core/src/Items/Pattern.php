<?php

declare(strict_types=1);

namespace Skeno\Core\Items;

use Closure;
use Skeno\Core\InvalidValue;

/** A regular expression on names or texts, with limits: what somebody types must not keep the server busy. */
final readonly class Pattern
{
    private const LONGEST = 200;

    /** Steps for one name, and for each byte of a text; patterns that need more go round in circles. */
    private const STEPS = 20_000;

    private const STEPS_A_BYTE = 20;

    /** Names, or bytes, after which it is looked at the clock. */
    private const NAMES = 500;

    private const BYTES = 200_000;

    private function __construct(private string $pattern, private string $said, private string $path)
    {
    }

    /** @throws InvalidValue when it is no regular expression */
    public static function of(string $said, string $path = 're'): self
    {
        if ($said === '' || strlen($said) > self::LONGEST) {
            throw InvalidValue::at($path, mb_strimwidth($said, 0, 60, '…'), 'a regular expression of 1 to '.self::LONGEST.' characters');
        }
        // a delimiter no name and no sensible pattern has; a line's limits count inside the pattern, so nobody can lift them from within
        $pattern = "\x01".str_replace("\x01", '', $said)."\x01iu";
        if (@preg_match($pattern, '') === false) {
            throw InvalidValue::at($path, $said, 'a regular expression: '.str_replace('preg_match(): ', '', error_get_last()['message'] ?? 'this is none'));
        }

        return new self($pattern, $said, $path);
    }

    /**
     * @param  iterable<int, string>  $names  or texts; read one after the other
     * @param  Closure(): float  $clock  seconds
     * @param  float  $seconds  for all of them
     * @return array<int, true> keys of those it matches
     *
     * @throws InvalidValue when it takes too long
     */
    public function among(iterable $names, Closure $clock, float $seconds = 1.0): array
    {
        $before = (string) ini_set('pcre.backtrack_limit', (string) self::STEPS);
        try {
            $until = $clock() + $seconds;
            $found = [];
            $steps = self::STEPS;
            $n = $bytes = 0;
            foreach ($names as $key => $name) {
                $wanted = max(self::STEPS, self::STEPS_A_BYTE * strlen($name));
                if ($wanted !== $steps) {
                    ini_set('pcre.backtrack_limit', (string) ($steps = $wanted));
                }
                $matches = preg_match($this->pattern, $name);
                if ($matches === false && preg_last_error() !== PREG_BAD_UTF8_ERROR) {
                    throw InvalidValue::at($this->path, $this->said, 'a pattern that is quicker to decide; this one goes round in circles');
                }
                $bytes += strlen($name);
                if (++$n >= self::NAMES || $bytes >= self::BYTES) {
                    if ($clock() > $until) {
                        throw InvalidValue::at($this->path, $this->said, 'a pattern that is quicker to decide, or fewer to look through: put other conditions before it');
                    }
                    $n = $bytes = 0;
                }
                if ($matches === 1) {
                    $found[$key] = true;
                }
            }

            return $found;
        } finally {
            ini_set('pcre.backtrack_limit', $before);
        }
    }
}
