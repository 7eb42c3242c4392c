<?php

declare(strict_types=1);

namespace App\Work;

use App\Looks\LookAtObjects;
use App\Models\Project;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Quality\FarthestFirst;
use Skeno\Core\Quality\Looks;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Selection;

/** Draws pictures that look least like each other and like what has been handed out or labelled already. */
final class DrawByDifference
{
    public const MOST = 1000;

    /** Every one drawn is held against all others: from larger pools a random part is compared, so that nobody waits long. */
    public const POOL = 2000;

    private const LABELLED = 300;

    /** @param  non-empty-list<int>  $pool  in byte order of their paths */
    public function draw(Project $project, array $pool, int $count, int $seed): DrawnLot
    {
        $known = $this->looks($pool);
        $unknown = count($pool) - count($known);
        if ($known === []) {
            LookAtObjects::ask($project->id);
            throw Refusal::because('not_looked_at', 'nobody has looked at these pictures yet; the worker is asked to, try again in a moment');
        }
        $compared = Selection::random(max(self::POOL, $count), $seed)->from(array_keys($known));
        $labelled = array_values(array_map(intval(...), DB::table('items')->where('project_id', $project->id)->whereNotIn('state', [ItemState::New->value, ItemState::Archived->value])->whereNotIn('id', count($pool) > 5000 ? [] : $pool)->orderBy('path')->pluck('id')->all()));
        $there = $labelled === [] ? [] : array_values($this->looks(Selection::random(self::LABELLED, $seed)->from($labelled)));
        $farthest = FarthestFirst::over(array_intersect_key($known, array_flip($compared)), $there);
        $drawn = $farthest->draw($count);
        $random = Selection::random($count, $seed)->from($compared);

        return new DrawnLot(array_values(array_intersect($pool, $drawn)), $farthest->cover($drawn), $farthest->cover($random), count($pool), count($compared), $unknown);
    }

    /**
     * @param  list<int>  $items
     * @return array<int, Looks> by item, in their order; without those nobody has looked at
     */
    private function looks(array $items): array
    {
        $found = [];
        foreach (array_chunk($items, 1000) as $some) {
            $found += DB::table('items')->join('picture_looks', 'picture_looks.asset_id', '=', 'items.asset_id')->whereIn('items.id', $some)->where('picture_looks.vector', '!=', '')->pluck('picture_looks.vector', 'items.id')->all();
        }
        $looks = [];
        foreach ($items as $item) {
            if (isset($found[$item])) {
                $looks[$item] = Looks::unpack((string) $found[$item]);
            }
        }

        return $looks;
    }
}
