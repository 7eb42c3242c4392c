<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\InvalidValue;

/** An object along the axis of its item: keys at some places, and the places at which it is there. What lies between keys is worked out, never stored. */
final readonly class Track
{
    /** @var list<int> places of the keys that have a shape, in order */
    private array $shaped;

    /** @param  array<int, Key>  $keys  by place, in order */
    private function __construct(public array $keys, public Places $there)
    {
        $this->shaped = array_keys(array_filter($keys, static fn (Key $key): bool => $key->geometry !== null));
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
        $i = $this->upTo($place);

        return $i > 0 ? $this->keys[$this->shaped[$i - 1]] : null;
    }

    /** The next key with a shape after a place. */
    public function after(int $place): ?Key
    {
        $i = $this->upTo($place);

        return isset($this->shaped[$i]) ? $this->keys[$this->shaped[$i]] : null;
    }

    /**
     * The object's shape at a place: a key's own, or what lies between two of them; null where it is not there. A shape goes on from a key to
     * the next only within a stretch in which the object is there all along: one that was away has not moved in a way anybody saw, so up to the
     * end of a stretch its last key holds, and from the beginning its first.
     */
    public function shape(int $place): ?Geometry
    {
        foreach ($this->shapes($place, $place) as $shape) {
            return $shape;
        }

        return null;
    }

    /** Whether the object is hidden at a place: what the key that holds there says. */
    public function isHidden(int $place): bool
    {
        return $this->before($place)->hidden ?? false;
    }

    /**
     * The shapes of all places from one to another at which the object is there, in order; what lies between two keys is worked out once.
     *
     * @return iterable<int, Geometry> by place
     */
    public function shapes(int $first, int $last): iterable
    {
        if ($this->shaped === []) {
            return;
        }
        foreach ($this->there->stretches as [$from, $to]) {
            if ($to < $first) {
                continue;
            }
            if ($from > $last) {
                break;
            }
            yield from $this->along($from, $to, max($first, $from), min($last, $to));
        }
    }

    /**
     * @param  int  $from  the stretch, $to its last place
     * @param  int  $first  of what is asked
     * @return iterable<int, Geometry>
     */
    private function along(int $from, int $to, int $first, int $last): iterable
    {
        $next = $this->upTo($first);
        for ($place = $first; $place <= $last;) {
            $one = $this->shaped[$next - 1] ?? -1;
            $two = $this->shaped[$next] ?? PHP_INT_MAX;
            $end = min($last, $two - 1);
            if ($one >= $from && $two <= $to) {
                // its own shape at the key, then the ones between
                $a = $this->geometry($one);
                if ($place === $one) {
                    yield $place++ => $a;
                }
                $between = $place <= $end ? InBetweens::of($a, $this->geometry($two)) : null;
                for (; $between !== null && $place <= $end; $place++) {
                    yield $place => $between->at(($place - $one) / ($two - $one));
                }
            } else {
                // the only key of the stretch on this side, else the last before it, else the first there is
                $held = $this->geometry($one >= $from || $two > $to && $one >= 0 ? $one : $two);
                for (; $place <= $end; $place++) {
                    yield $place => $held;
                }
            }
            $next++;
        }
    }

    /** Of a key that has one. */
    private function geometry(int $place): Geometry
    {
        return $this->keys[$place]->geometry ?? throw InvalidValue::at('keys', $place, 'a key with a shape');
    }

    /** How many keys with a shape lie up to a place. */
    private function upTo(int $place): int
    {
        [$low, $high] = [0, count($this->shaped)];
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            $this->shaped[$middle] <= $place ? $low = $middle + 1 : $high = $middle;
        }

        return $low;
    }

    /** @return list<string> the questions any of its keys answers */
    public function questions(): array
    {
        $asked = [];
        foreach ($this->keys as $key) {
            $asked += $key->answers;
        }

        return array_map(strval(...), array_keys($asked));
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

    /**
     * The object only there where it is said: what lies outside is left out, and where a part begins or ends between two keys it gets one of its
     * own, so that nothing inside changes.
     *
     * @throws InvalidValue when nothing is left
     */
    public function within(Places $there): self
    {
        $left = $this->there->without($this->there->without($there));
        if ($left->isEmpty()) {
            throw InvalidValue::at('there', $there->toArray(), 'places at which the object is there');
        }
        $keys = array_filter($this->keys, static fn (Key $key): bool => $left->has($key->place));
        $dropped = array_keys(array_diff_key($this->keys, $keys));
        foreach ($left->stretches as [$first, $last]) {
            // what holds where a part begins was said before it, or lies between two keys; at an end the rest of the way does
            if ($dropped !== [] && $dropped[0] < $first || ! $this->owns($first, $last)) {
                $keys[$first] = $this->filled($first);
            }
            if ($this->there->has($last + 1) && ! isset($keys[$last]->geometry)) {
                $keys[$last] = $this->filled($last);
            }
        }
        $keys = array_filter($keys);
        ksort($keys);

        return new self($keys, $left);
    }

    /**
     * Cut in two: the one up to the place before, the other from the place on.
     *
     * @return array{self, self}
     *
     * @throws InvalidValue when one of them would be nowhere
     */
    public function split(int $place): array
    {
        if ($place < 1) {
            throw InvalidValue::at('place', $place, 'a place after the first');
        }

        return [$this->within(Places::stretch(0, $place - 1)), $this->within(Places::stretch($place, Places::LIMIT))];
    }

    /**
     * One object of two that are never there at the same place, each as it was. Where one follows the other at once, the first gets a key at its
     * last place, so that it does not begin to move towards the second. An answer only one of them has goes on in the other.
     *
     * @throws InvalidValue when both are there somewhere
     */
    public function joined(self $other): self
    {
        $common = $this->there->without($this->there->without($other->there));
        if (! $common->isEmpty()) {
            throw InvalidValue::at('place', $common->stretches[0][0], 'tracks that are never there at the same place');
        }
        $keys = $this->keys + $other->keys;
        foreach ([[$this, $other], [$other, $this]] as [$one, $two]) {
            $earliest = array_key_first($two->keys) ?? PHP_INT_MAX;
            foreach ($one->there->stretches as [$first, $last]) {
                // what held here by a key elsewhere would now be what the other says in between
                if ($earliest < $first || ! $one->owns($first, $last)) {
                    $keys[$first] = $one->filled($first);
                }
                if ($two->there->has($last + 1) && ! isset($keys[$last]->geometry)) {
                    $keys[$last] = $one->filled($last);
                }
            }
        }
        $keys = array_filter($keys);
        ksort($keys);

        return new self($keys, $this->there->with($other->there));
    }

    /**
     * From a place on each is the other: two that were taken for each other when they met.
     *
     * @return array{self, self}
     *
     * @throws InvalidValue when one of them is not there before the place, or not from it on
     */
    public static function swapped(self $a, self $b, int $place): array
    {
        [$a0, $a1] = $a->split($place);
        [$b0, $b1] = $b->split($place);

        return [$a0->joined($b1), $b0->joined($a1)];
    }

    /** Whether a key with a shape lies within a stretch. */
    private function owns(int $first, int $last): bool
    {
        return ($this->shaped[$this->upTo($first - 1)] ?? PHP_INT_MAX) <= $last;
    }

    /** A key that says of a place all that holds there anyway: shape, answers, whether it is hidden; null where nothing is known. */
    private function filled(int $place): ?Key
    {
        $answers = [];
        foreach ($this->keys as $at => $key) {
            if ($at > $place) {
                break;
            }
            $answers = $key->answers + $answers;
        }
        $own = $this->keys[$place] ?? null;
        $shape = $this->shape($place);
        if ($shape === null && $answers === []) {
            return null;
        }
        if ($own !== null && ($own->geometry !== null || $shape === null)) {
            return Key::of($place, $own->geometry, $answers, $own->hidden, $own->source, $own->confidence, $own->revision);
        }

        return Key::of($place, $shape, $answers, $this->isHidden($place), KeySource::Copied, null, $own->revision ?? 1);
    }
}
