<?php

declare(strict_types=1);

namespace App\Work;

use App\Support\Refusal;
use Illuminate\Support\Facades\DB;

/** Draws items by what a model is unsure of: those on which most of what it suggested is neither sure nor out of the question. */
final class DrawByDoubt
{
    /**
     * @param  non-empty-list<int>  $pool  in byte order of their paths
     * @return list<int> the most doubtful, in byte order of their paths; of equally doubtful ones the first
     *
     * @throws Refusal when no model has looked at any of them
     */
    public function draw(array $pool, int $count): array
    {
        $doubts = [];
        foreach (array_chunk($pool, 1000) as $some) {
            $doubts += DB::table('items')->whereIntegerInRaw('id', $some)->whereNotNull('doubt')->pluck('doubt', 'id')->all();
        }
        if ($doubts === []) {
            throw Refusal::because('not_suggested', 'no model has suggested anything on these items yet: run one over them first');
        }
        $place = array_flip($pool);
        $known = array_keys($doubts);
        usort($known, static fn (int $a, int $b): int => [(float) $doubts[$b], $place[$a]] <=> [(float) $doubts[$a], $place[$b]]);

        return array_values(array_intersect($pool, array_slice($known, 0, $count)));
    }
}
