<?php

declare(strict_types=1);

namespace App\Releases;

use App\Models\MarkRow;
use App\Models\Project;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Release\Census;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Workflow\ItemState;

/** What a recipe would take now, from the counts the database keeps: a test holds it against the census of a release frozen at that moment. */
final class Preview
{
    /** How `mark_counts` says of a size that the mark lies on no plane. */
    private const NO_PLANE = 4;

    public function __construct(private readonly Parts $parts)
    {
    }

    public function of(Project $project, Recipe $recipe): Census
    {
        $census = new Census;
        $this->marks($project, $recipe, $census);
        $this->items($project, $recipe, $census);
        if ($recipe->split !== null) {
            $this->split($project, $recipe, $census);
        }

        return $census;
    }

    private function items(Project $project, Recipe $recipe, Census $census): void
    {
        $labelled = $objects = 0;
        foreach ($this->taken($project, $recipe)->groupBy('objects', 'items.nothing')->selectRaw('items.mark_count > 0 as objects, items."nothing" as empty, count(*) as n')->get() as $row) {
            if ((int) $row->objects === 1) {
                $objects += (int) $row->n;
            }
            (int) $row->objects === 1 || (int) $row->empty === 1 ? $labelled += (int) $row->n : $census->addItems(Labelled::Unlabelled, (int) $row->n);
        }
        if ($recipe->classes !== []) {
            // an item on which nothing of these classes is has nothing there, as far as the release says
            $objects = $this->taken($project, $recipe)->whereExists(static fn (Builder $mark) => $mark->from('marks')->whereColumn('marks.item_id', 'items.id')->whereRaw(MarkRow::STANDS)->whereIn('class', $recipe->classes))->count();
        }
        $census->addItems(Labelled::Objects, $objects);
        $census->addItems(Labelled::Nothing, $labelled - $objects);
    }

    private function marks(Project $project, Recipe $recipe, Census $census): void
    {
        $sets = $this->sets($project, $recipe);
        $counts = DB::table('mark_counts')->where('project_id', $project->id)->where('marks', '>', 0)
            ->when($sets !== null, static fn (Builder $query) => $query->whereIn('set_id', $sets ?? []))
            ->when($recipe->classes !== [], static fn (Builder $query) => $query->whereIn('class', $recipe->classes));
        $this->inState($counts, 'state', $recipe);
        $relations = $project->codebookVersion()->codebook()->relations;
        $unknown = 0;
        foreach ($counts->groupBy('class', 'size')->selectRaw('class, size, sum(marks) as n')->get() as $row) {
            $size = (int) $row->size;
            $size >= 0 && $size <= 3 ? $census->addMarks((string) $row->class, $size, (int) $row->n) : ($size === self::NO_PLANE ? self::words($census, $relations, (string) $row->class, (int) $row->n) : $unknown += (int) $row->n);
        }
        if ($unknown > 0) {
            // new ones, whose extent the worker has not noted yet
            $new = DB::table('marks')->join('items', 'items.id', '=', 'marks.item_id')->where('marks.project_id', $project->id)->where('marks.layer', LayerKind::Agreed)->whereNull('marks.width')->whereNull('marks.deleted_at')
                ->when($sets !== null, static fn (Builder $query) => $query->whereIn('items.set_id', $sets ?? []))
                ->when($recipe->classes !== [], static fn (Builder $query) => $query->whereIn('marks.class', $recipe->classes));
            $this->inState($new, 'items.state', $recipe);
            foreach ($new->select('marks.class', 'marks.kind', 'marks.geometry')->cursor() as $mark) {
                $kind = Shape::from((string) $mark->kind);
                $kind->isFlat() ? $census->addMarks((string) $mark->class, Census::size($kind->flat(Fields::of(json_decode((string) $mark->geometry, true)), 'geometry', true)->bounds()), 1) : self::words($census, $relations, (string) $mark->class, 1);
            }
        }
    }

    /** @param  array<string, \Skeno\Core\Codebook\Relation>  $relations */
    private static function words(Census $census, array $relations, string $class, int $n): void
    {
        isset($relations[$class]) ? $census->addRelations($class, $n) : $census->addMarks($class, null, $n);
    }

    private function split(Project $project, Recipe $recipe, Census $census): void
    {
        $split = $recipe->split ?? throw new \LogicException('no split was asked for');
        $all = $this->taken($project, $recipe)->selectRaw('count(*) as items, count(distinct items.asset_id) as pictures, count(items.part) as given')->first();
        $count = (int) ($all->items ?? 0);
        if ($count !== (int) ($all->pictures ?? 0)) {
            // pictures with the same bytes stay together: which they are makes a difference
            $sizes = $given = [];
            $pictures = $this->taken($project, $recipe)->join('assets', 'assets.id', '=', 'items.asset_id')->groupBy('items.asset_id')
                // of several that came in with a part the last by name counts, as in a release: SQLite takes the other columns from the row of the largest
                ->selectRaw('assets.sha256, count(*) as n, max(case when items.part is not null then items.path end) as last, items.part')->cursor();
            foreach ($pictures as $picture) {
                $sizes[(string) $picture->sha256] = (int) $picture->n;
                if ($picture->last !== null) {
                    $given[(string) $picture->sha256] = Part::from((string) $picture->part);
                }
            }
            foreach ($split->ofPictures($sizes, $given + $this->parts->kept($this->parts->before($project, $recipe, PHP_INT_MAX))) as $hash => $part) {
                $census->addParts($part, $sizes[$hash]);
            }

            return;
        }
        $before = $this->parts->before($project, $recipe, PHP_INT_MAX);
        $given = ['train' => 0, 'val' => 0, 'test' => 0];
        if ($before !== null || (int) ($all->given ?? 0) > 0) {
            $known = $this->taken($project, $recipe)->join('assets', 'assets.id', '=', 'items.asset_id')
                ->leftJoin('release_parts', static fn ($join) => $join->on('release_parts.sha256', '=', 'assets.sha256')->where('release_parts.release_id', $before->id ?? 0))
                ->groupBy('given')->selectRaw('coalesce(items.part, release_parts.part) as given, count(*) as n')->pluck('n', 'given');
            foreach (Part::cases() as $part) {
                $given[$part->value] = (int) ($known[$part->value] ?? 0);
            }
        }
        foreach ($split->sizes($count, $given) as $part => $n) {
            if ($n > 0) {
                $census->addParts(Part::from($part), $n);
            }
        }
    }

    /** The items that go in: Recipe::takes in words of the database. */
    private function taken(Project $project, Recipe $recipe): Builder
    {
        $sets = $this->sets($project, $recipe);

        return DB::table('items')->where('items.project_id', $project->id)->where('items.state', '!=', ItemState::Archived->value)
            ->when($sets !== null, static fn (Builder $query) => $query->whereIn('items.set_id', $sets ?? []))
            ->where(fn (Builder $either) => $either->where(fn (Builder $labelled) => $this->inState($labelled->where(static fn (Builder $query) => $query->where('items.mark_count', '>', 0)->orWhere('items.nothing', true)), 'items.state', $recipe))
                ->when($recipe->withUnlabelled, static fn (Builder $query) => $query->orWhere(static fn (Builder $bare) => $bare->where('items.mark_count', 0)->where('items.nothing', false))));
    }

    private function inState(Builder $query, string $column, Recipe $recipe): Builder
    {
        return $recipe->anyState ? $query->where($column, '!=', ItemState::Archived->value) : $query->where($column, ItemState::Accepted->value);
    }

    /** @return ?list<int> ids; null: all */
    private function sets(Project $project, Recipe $recipe): ?array
    {
        return $recipe->sets === [] ? null : array_values($project->sets()->whereIn('path', $recipe->sets)->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all());
    }
}
