<?php

declare(strict_types=1);

namespace App\Help;

use App\Files\Views;
use App\Models\Asset;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use Closure;
use Illuminate\Database\Eloquent\Builder;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Learn\Example;
use Skeno\Core\Learn\HeldOut;
use Skeno\Core\Marks\LayerKind;

/** Accepted items of a project as what models learn from and are measured by. */
final class Examples
{
    /** Items read at most, of each part: more say little more. */
    private const MOST = 200;

    public function __construct(private readonly Views $views)
    {
    }

    /** @return Builder<Item> accepted pictures, which is what models look at */
    public static function accepted(Project $project): Builder
    {
        return Item::query()->where('project_id', $project->id)->whereNull('archived_at')->where('state', 'accepted')->where('kind', 'picture');
    }

    /**
     * Which accepted items are learned from, and which are held out.
     *
     * @return array{learned: list<int>, held: list<int>}
     */
    public static function parted(Project $project): array
    {
        $parts = ['learned' => [], 'held' => []];
        foreach (self::accepted($project)->orderBy('id')->pluck('id') as $id) {
            $parts[HeldOut::has((int) $id) ? 'held' : 'learned'][] = (int) $id;
        }

        return array_map(static function (array $ids): array {
            $n = count($ids);

            // evenly over all, not the newest only
            return $n <= self::MOST ? $ids : array_map(static fn (int $k): int => $ids[intdiv($k * $n, self::MOST)], range(0, self::MOST - 1));
        }, $parts);
    }

    /**
     * @param  list<int>  $ids  in the order that is wanted
     * @return array<int, Example> by id
     */
    public function of(Codebook $codebook, array $ids): array
    {
        $examples = [];
        foreach (array_chunk($ids, 100) as $some) {
            $items = Item::query()->whereIn('id', $some)->with('asset')->get()->keyBy('id');
            $marks = MarkRow::query()->whereIn('item_id', $some)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')->orderBy('id')->get()->groupBy('item_id');
            foreach ($some as $id) {
                $item = $items->get($id);
                if ($item !== null) {
                    $examples[$id] = $this->one($codebook, $item->asset, array_values(($marks->get($id) ?? collect())->all()));
                }
            }
        }

        return $examples;
    }

    /** A part of the picture of an item in a size: left, top, width, height, columns, rows. @return Closure(int, int, int, int, int, int): Colours */
    public function part(Asset $asset): Closure
    {
        // of a clip its first frame, of a document its first page
        $place = in_array($asset->kind, ['clip', 'document', 'volume', 'cloud'], true) ? 0 : null;

        return fn (int $x, int $y, int $width, int $height, int $columns, int $rows): Colours => $this->views->colours($asset, $place, $x, $y, $width, $height, $columns, $rows);
    }

    /** @param  list<MarkRow>  $marks */
    private function one(Codebook $codebook, Asset $asset, array $marks): Example
    {
        $things = $unknown = [];
        foreach ($marks as $mark) {
            $shape = Shape::from($mark->kind)->flat(Fields::of($mark->geometry), 'geometry', true);
            if ($codebook->class($mark->class)->ignore ?? false) {
                $unknown[] = $shape;
            } else {
                $things[] = ['class' => $mark->class, 'geometry' => $shape];
            }
        }

        return new Example($this->part($asset), $asset->width, $asset->height, $things, $unknown);
    }
}
