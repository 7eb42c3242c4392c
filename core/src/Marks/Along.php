<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Tracks\Face;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

/** What is said along an axis of one subject, from beginning to end: each stretch with its answer, and each with none yet. */
final class Along
{
    /**
     * Of a question of scope `frame`: what was answered, and the gaps.
     *
     * @param  int  $places  of the axis
     * @return list<array{first: int, last: int, answer: ?Answer}> in order
     */
    public static function ofItem(ItemAnswers $said, string $question, int $places): array
    {
        $all = $answered = [];
        foreach ($said->stretches as $stretch) {
            if ($stretch->key === $question && $stretch->answer !== null) {
                $all[] = ['first' => $stretch->first, 'last' => $stretch->last, 'answer' => $stretch->answer];
                $answered[] = [$stretch->first, $stretch->last];
            }
        }
        foreach (Places::stretch(0, $places - 1)->without(Places::fromArray($answered))->stretches as [$first, $last]) {
            $all[] = ['first' => $first, 'last' => $last, 'answer' => null];
        }
        usort($all, static fn (array $a, array $b): int => $a['first'] <=> $b['first']);

        return $all;
    }

    /**
     * Of a tag: where it is.
     *
     * @return list<array{first: int, last: int, answer: null}> in order
     */
    public static function ofTag(ItemAnswers $said, string $tag): array
    {
        $all = [];
        foreach ($said->stretches as $stretch) {
            if ($stretch->key === $tag && $stretch->isTag()) {
                $all[] = ['first' => $stretch->first, 'last' => $stretch->last, 'answer' => null];
            }
        }

        return $all;
    }

    /**
     * Of a question about an object whose answer varies: it holds from the key that gives it until another does, also while the object is away.
     *
     * @return list<array{first: int, last: int, answer: ?Answer}> in order, only where the object is there
     */
    public static function ofTrack(Track $track, string $question): array
    {
        $all = [];
        $answer = null;
        $keys = $track->keys;
        foreach ($track->there->stretches as [$first, $last]) {
            $open = ['first' => $first, 'last' => $last, 'answer' => $answer];
            foreach ($keys as $place => $key) {
                if ($place > $last) {
                    break;
                }
                unset($keys[$place]);
                $given = $key->answers[$question] ?? null;
                if ($given === null || $given->toArray() === $answer?->toArray()) {
                    continue;
                }
                $answer = $given;
                if ($place > $open['first']) {
                    $all[] = ['last' => $place - 1] + $open;
                }
                $open = ['first' => max($place, $first), 'last' => $last, 'answer' => $answer];
            }
            $all[] = $open;
        }

        return $all;
    }

    /**
     * Where an object is looked at to answer for a stretch: at the key in it at which it is seen best, else in its middle.
     *
     * @param  list<Key>  $keys  of the track
     */
    public static function face(array $keys, int $first, int $last): int
    {
        return Face::among(array_values(array_filter($keys, static fn (Key $key): bool => $key->place >= $first && $key->place <= $last)))->place ?? intdiv($first + $last, 2);
    }
}
