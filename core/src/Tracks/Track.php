<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\InvalidValue;

/** An object along the axis of its item: keys at some places, and the places at which it is there. What lies between keys is worked out, never stored. */
final readonly class Track
{
    /** @param  array<int, Key>  $keys  by place, in order */
    private function __construct(public array $keys, public Places $there)
    {
    }

    /**
     * @param  list<Key>  $keys
     *
     * @throws InvalidValue when two keys are at one place, or one where the object is not
     */
    public static function of(array $keys, Places $there): self
    {
        $byPlace = [];
        foreach ($keys as $key) {
            if (isset($byPlace[$key->place]) || ! $there->has($key->place)) {
                throw InvalidValue::at('keys', $key->place, isset($byPlace[$key->place]) ? 'one key for each place' : 'keys where the object is there');
            }
            $byPlace[$key->place] = $key;
        }
        ksort($byPlace);

        return new self($byPlace, $there);
    }

    /** The key that holds at a place: the last at or before it where the object has a shape; null before the first. */
    public function before(int $place): ?Key
    {
        $found = null;
        foreach ($this->keys as $at => $key) {
            if ($at > $place) {
                break;
            }
            $found = $key->geometry === null ? $found : $key;
        }

        return $found;
    }

    /** The next key with a shape after a place. */
    public function after(int $place): ?Key
    {
        foreach ($this->keys as $at => $key) {
            if ($at > $place && $key->geometry !== null) {
                return $key;
            }
        }

        return null;
    }

    /** An answer that varies, as it stands at a place: what the last key before says that says anything of it. */
    public function answer(string $question, int $place): ?Answer
    {
        $found = null;
        foreach ($this->keys as $at => $key) {
            if ($at > $place) {
                break;
            }
            $found = $key->answers[$question] ?? $found;
        }

        return $found;
    }

    /**
     * The track after an edit of one of its keys; null when somebody else has changed that very key meanwhile.
     *
     * @throws InvalidValue when the object is not there
     */
    public function edited(KeyEdit $edit): ?self
    {
        if (! $edit->fits($this->keys[$edit->place] ?? null)) {
            return null;
        }
        $keys = $this->keys;
        if ($edit->key === null) {
            unset($keys[$edit->place]);
        } else {
            if (! $this->there->has($edit->place)) {
                throw InvalidValue::at('place', $edit->place, 'a place where the object is there');
            }
            $keys[$edit->place] = $edit->key->revised($edit->base + 1);
            ksort($keys);
        }

        return new self($keys, $this->there);
    }
}
