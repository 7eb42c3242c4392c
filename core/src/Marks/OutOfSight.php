<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Tracks\Face;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

/** What becomes of a track where its object can't be seen: it is hidden there, or, as its class may have it, not there. */
final class OutOfSight
{
    /** A track from elsewhere as the codebook keeps it. One that is never seen stays as it is: a track is somewhere. */
    public static function kept(Mark $mark, Codebook $codebook): Mark
    {
        if ($mark->there === null || $codebook->class($mark->class)?->absent !== true || ! self::isHiddenAnywhere($mark)) {
            return $mark;
        }
        $track = $mark->track();
        $hidden = Places::none();
        $places = array_keys(array_filter($track->keys, static fn (Key $key): bool => $key->geometry !== null));
        foreach ($places as $i => $place) {
            if ($track->keys[$place]->hidden) {
                $hidden = $hidden->with(Places::stretch($place, ($places[$i + 1] ?? Places::LIMIT + 1) - 1));
            }
        }
        $seen = $mark->there->without($hidden);
        if ($seen->isEmpty()) {
            return $mark;
        }
        $left = $track->within($seen);
        $face = Face::among(array_values($left->keys));

        return $mark->as($face->geometry ?? $mark->geometry)->through($face->place ?? $mark->place, $seen, array_values($left->keys));
    }

    private static function isHiddenAnywhere(Mark $mark): bool
    {
        foreach ($mark->keys as $key) {
            if ($key->hidden) {
                return true;
            }
        }

        return false;
    }
}
