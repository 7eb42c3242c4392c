<?php

declare(strict_types=1);

namespace App\Releases;

use App\Intake\TakeFrames;
use App\Models\Project;
use App\Models\Release;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Formats\SkenoJson\SkenoJsonReader;
use Skeno\Core\Items\Part;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Workflow\ItemState;

/** Which part of a split each picture goes to: the one it had in an earlier release of the same shares and seed, the one it came in with, or a new one. */
final class Parts
{
    /** Rows written at a time. */
    private const CHUNK = 500;

    /** @return array<string, Part> by path */
    public function of(Project $project, Recipe $recipe, int $number): array
    {
        if ($recipe->split === null) {
            return [];
        }
        $hashes = $given = [];
        $clips = TakeFrames::clips($project->id);
        $rows = DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->join('sets', 'sets.id', '=', 'items.set_id')->where('items.project_id', $project->id)
            ->orderBy('items.path')->select('items.path', 'items.state', 'items.nothing', 'items.mark_count', 'items.part', 'sets.path as set_path', 'assets.sha256')->cursor();
        foreach ($rows as $row) {
            if ($recipe->takes(ItemState::from((string) $row->state), (int) $row->mark_count > 0 || (int) $row->nothing === 1, (string) $row->set_path)) {
                // frames of one clip go where the clip goes
                $hash = $clips[(string) $row->path] ?? (string) $row->sha256;
                $hashes[(string) $row->path] = $hash;
                if ($row->part !== null) {
                    $given[$hash] = Part::from((string) $row->part);
                }
            }
        }

        return $recipe->split->assign($hashes, $given + $this->kept($this->before($project, $recipe, $number)));
    }

    /** @return array<string, Part> the part each picture had in a release, by its hash */
    public function kept(?Release $release): array
    {
        $parts = [];
        foreach ($release === null ? [] : DB::table('release_parts')->where('release_id', $release->id)->cursor() as $row) {
            $parts[(string) $row->sha256] = Part::from((string) $row->part);
        }

        return $parts;
    }

    /** The last release with a lower number and the same split, with its parts at hand. */
    public function before(Project $project, Recipe $recipe, int $number): ?Release
    {
        // as it is stored, where 80.0 has become 80
        $stored = static fn (mixed $split): string => (string) json_encode($split);
        $split = $stored($recipe->toArray()['split']);
        foreach (Release::query()->where('project_id', $project->id)->where('state', 'done')->where('number', '<', $number)->orderByDesc('number')->get() as $before) {
            /** @var Release $before */
            if ($stored($before->recipe['split'] ?? null) === $split) {
                $this->atHand($before);

                return $before;
            }
        }

        return null;
    }

    /** A release frozen by a version that kept the parts in the snapshot alone. */
    private function atHand(Release $release): void
    {
        if (DB::table('release_parts')->where('release_id', $release->id)->doesntExist()) {
            $this->keep($release, (static function () use ($release): iterable {
                foreach (SkenoJsonReader::items(Snapshots::file($release)) as $item) {
                    if ($item->part !== null) {
                        yield $item->hash => $item->part;
                    }
                }
            })());
        }
    }

    /** @param  iterable<string, Part>  $parts by the hash of the picture */
    public function keep(Release $release, iterable $parts): void
    {
        $rows = [];
        $write = static function () use (&$rows): void {
            DB::table('release_parts')->upsert($rows, ['release_id', 'sha256'], ['part']);
            $rows = [];
        };
        foreach ($parts as $hash => $part) {
            $rows[] = ['release_id' => $release->id, 'sha256' => $hash, 'part' => $part->value];
            if (count($rows) === self::CHUNK) {
                $write();
            }
        }
        if ($rows !== []) {
            $write();
        }
    }
}
