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
     * Of a question of scope `page`: every page by itself, answered or not.
     *
     * @param  int  $pages  of the document
     * @return list<array{first: int, last: int, answer: ?Answer}> in order
     */
    public static function ofPages(ItemAnswers $said, string $question, int $pages): array
    {
        $all = [];
        foreach (self::ofItem($said, $question, $pages) as $stretch) {
            for ($page = $stretch['first']; $page <= $stretch['last']; $page++) {
                $all[] = ['first' => $page, 'last' => $page, 'answer' => $stretch['answer']];
            }
        }

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
     * Of a question about an object whose answer varies: it holds from the key that gives it until another gives another, also while the object is away.
     *
     * @return list<array{first: int, last: int, answer: ?Answer}> in order; first and last are places at which the object is there
     */
    public static function ofTrack(Track $track, string $question): array
    {
        if ($track->there->isEmpty()) {
            return [];
        }
        $stretches = $track->there->stretches;
        $all = [];
        $open = ['first' => $stretches[0][0], 'answer' => null];
        $i = 0;
        foreach ($track->keys as $place => $key) {
            $given = $key->answers[$question] ?? null;
            if ($given === null || $given->toArray() === $open['answer']?->toArray()) {
                continue;
            }
            if ($place > $open['first']) {
                // to where it was there last before
                while (($stretches[$i + 1][0] ?? PHP_INT_MAX) < $place) {
                    $i++;
                }
                $all[] = ['first' => $open['first'], 'last' => min($stretches[$i][1], $place - 1), 'answer' => $open['answer']];
            }
            $open = ['first' => $place, 'answer' => $given];
        }
        $all[] = ['first' => $open['first'], 'last' => $stretches[count($stretches) - 1][1], 'answer' => $open['answer']];

        return $all;
    }

    /**
     * Where an object is looked at to answer for a stretch: at the key in it at which it is seen best, else at its beginning.
     *
     * @param  list<Key>  $keys  of the track
     */
    public static function face(array $keys, int $first, int $last): int
    {
        return Face::among(array_values(array_filter($keys, static fn (Key $key): bool => $key->place >= $first && $key->place <= $last)))->place ?? $first;
    }
}
