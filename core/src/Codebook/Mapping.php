<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\InvalidValue;

/**
 * Where the words of one codebook go in the next, said by a person. A flat list of addresses of the old codebook, each with
 * the key it gets in the new one, or null to take it away:
 *
 *     class:K            a class
 *     question:Q         a question wherever it is asked
 *     question:K/Q       a question as asked of class K only
 *     answer:Q=O         a choice of a question
 *     answer:Q=?W        a way of having no value (none, not_visible, unsure)
 *     answer:Q=*         any other value of a question
 *     tag:T              a tag
 *     relation:R         a relation
 *     node:S/N           a node of skeleton S
 *
 * The key of an answer may also be ?W. What is not listed keeps its key.
 */
final readonly class Mapping
{
    private const KEY = '[a-z][a-z0-9_]{0,63}';

    /** @param  array<string, ?string>  $rules  by address, sorted */
    private function __construct(public array $rules)
    {
    }

    public static function none(): self
    {
        return new self([]);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'mapping'): self
    {
        if (! is_array($data)) {
            throw InvalidValue::at($path, $data, 'an object of addresses');
        }
        $rules = [];
        $key = self::KEY;
        foreach ($data as $address => $to) {
            $address = (string) $address;
            if (preg_match("~^(class:{$key}|question:({$key}/)?{$key}|answer:{$key}=({$key}|\\?(none|not_visible|unsure)|\\*)|tag:{$key}|relation:{$key}|node:{$key}/{$key})$~D", $address) !== 1) {
                throw InvalidValue::at($path, $address, 'an address like class:apple, question:ripeness, answer:ripeness=ripe, tag:wet, relation:counts or node:moth/head');
            }
            if ($to !== null && (! is_string($to) || preg_match("~^({$key}|\\?(none|not_visible|unsure))$~D", $to) !== 1)) {
                throw InvalidValue::at("{$path}.{$address}", $to, 'a key, or null to take it away');
            }
            $rules[$address] = $to;
        }
        ksort($rules);

        return new self($rules);
    }

    public function has(string $address): bool
    {
        return array_key_exists($address, $this->rules);
    }

    /** The key something gets: its own where nothing else is said, null when it is taken away. */
    public function of(string $address, string $own): ?string
    {
        return $this->has($address) ? $this->rules[$address] : $own;
    }

    public function isEmpty(): bool
    {
        return $this->rules === [];
    }
}
