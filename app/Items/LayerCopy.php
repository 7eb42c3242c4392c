<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\User;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\Marks\EditAction;

/**
 * Carries marks and sayings from one layer of an item to another, each as a mark of its own with a history of its own. Called in a
 * transaction; the layers are counted afterwards.
 */
final class LayerCopy
{
    /** What of a mark is its content: two marks that agree in it say the same. */
    private const CONTENT = ['class', 'kind', 'geometry', 'answers', 'stack', 'flags', 'place', 'stretches'];

    /** What was found out about a mark where it lies, and is not its content. */
    private const NOT_COPIED = ['width' => null, 'height' => null, 'oddness' => null, 'suggestion_id' => null, 'deleted_at' => null];

    /** Marks a statement may hold. */
    private const ROWS = 200;

    /**
     * Copies marks onto a layer. A relation to a mark that is not there is not copied.
     *
     * @param  Collection<int, MarkRow>  $marks
     * @param  bool  $origins  remember what each was copied from, so that the copy can be merged back
     * @param  array<string, string>  $there  ids on that layer of marks that are there already, by their ids on this one
     * @return array<string, string> id of the copy by id of the mark
     */
    public static function marks(Collection $marks, Layer $to, string $action, ?User $by, bool $origins = false, array $there = []): array
    {
        $ids = [];
        foreach ($marks as $mark) {
            $ids[$mark->id] = strtoupper((string) Str::ulid());
        }
        $known = $ids + $there;
        $now = now();
        $rows = $history = [];
        foreach ($marks as $mark) {
            $partOf = $mark->part_of === null ? null : $known[$mark->part_of] ?? null;
            if (! $mark->mark()->hasEndsAmong($known)) {
                unset($ids[$mark->id]);

                continue;
            }
            $copy = $mark->mark()->copy($ids[$mark->id], $partOf, $known);
            // as it is stored, since thousands may be copied while everybody else waits to write
            $rows[] = [
                'id' => $ids[$mark->id], 'layer_id' => $to->id, 'layer' => $to->kind->value, 'part_of' => $partOf, 'revision' => 1, 'created_at' => $now, 'updated_at' => $now,
                'origin_id' => $origins ? $mark->id : null, 'origin_revision' => $origins ? $mark->revision : null,
            ] + ($copy->isRelation() ? ['geometry' => json_encode($copy->geometry->toArray())] : []) + self::NOT_COPIED + $mark->getAttributes();
            $history[] = History::entry($to->item_id, $to->id, $ids[$mark->id], 1, $action, null, $copy->toArray(), $by?->id);
        }
        foreach (array_chunk($rows, self::ROWS) as $some) {
            DB::table('marks')->insert($some);
        }
        Keys::copy($ids);
        History::write($history);
        Layers::count($to);

        return $ids;
    }

    /** What is said of the item on one layer is said on another; the history keeps what was said there. */
    public static function said(Layer $from, Layer $to, string $action, ?User $by): void
    {
        $before = $to->revision === 0 ? null : $to->said()->toArray();
        $to->fill(['answers' => $from->answers, 'tags' => $from->tags, 'stretches' => $from->stretches, 'revision' => $to->revision + 1, 'author_id' => $from->author_id, 'source' => $from->source])->save();
        History::write([History::entry($to->item_id, $to->id, null, $to->revision, $action, $before, $to->said()->toArray(), $by?->id)]);
    }

    /** Takes away all marks of a layer; the history keeps them. */
    public static function clear(Layer $layer, string $action, ?User $by): void
    {
        $standing = static fn () => MarkRow::query()->where('layer_id', $layer->id)->whereNull('deleted_at');
        $gone = $standing()->get()->map(static fn (MarkRow $mark): array => History::entry($mark->item_id, $mark->layer_id, $mark->id, $mark->revision + 1, $action, $mark->mark()->toArray(), null, $by?->id));
        $standing()->update(['deleted_at' => now(), 'revision' => DB::raw('revision + 1')]);
        History::write(array_values($gone->all()));
        Layers::count($layer);
    }

    /**
     * Brings a draft into the layer it was copied from: what was changed on it is changed there, what was taken away is taken away,
     * what is new is added. Where both were changed the draft stands, since it was looked at last; the history keeps the other.
     */
    public static function merge(Layer $draft, Layer $into, string $action, ?User $by): void
    {
        $marks = MarkRow::query()->where('layer_id', $draft->id)->orderBy('id')->get();
        $there = MarkRow::query()->where('layer_id', $into->id)->get()->keyBy('id');
        $agreed = $marks->filter(static fn (MarkRow $mark): bool => $mark->origin_id !== null)->mapWithKeys(static fn (MarkRow $mark): array => [$mark->id => (string) $mark->origin_id])->all();
        $new = $marks->filter(static fn (MarkRow $mark): bool => $mark->origin_id === null && $mark->deleted_at === null);
        $agreed += self::marks($new, $into, $action, $by, there: $agreed);
        foreach ($marks as $mark) {
            $origin = $there->get($mark->origin_id ?? '');
            if ($origin === null) {
                continue;
            }
            if ($mark->deleted_at === null && $origin->deleted_at === null && Keys::merge($mark, $origin)) {
                History::write([History::entry($into->item_id, $into->id, $origin->id, $origin->revision, EditAction::Key->value, null, ['keys' => 'those of the draft'], $by?->id)]);
            }
            $untouched = $mark->revision === 1;
            if ($untouched || ($mark->deleted_at !== null && $origin->deleted_at !== null)) {
                continue;
            }
            if ($mark->deleted_at !== null) {
                self::delete($origin, $action, $by);

                continue;
            }
            $before = $origin->mark()->toArray();
            foreach (self::CONTENT as $field) {
                $origin->setAttribute($field, $mark->getAttribute($field));
            }
            $copy = $mark->mark()->copy($origin->id, null, $agreed);
            if ($copy->isRelation()) {
                $origin->geometry = $copy->geometry->toArray();
            }
            $origin->fill(['part_of' => $mark->part_of === null ? null : $agreed[$mark->part_of] ?? $mark->part_of, 'author_id' => $mark->author_id, 'source' => $mark->source, 'confidence' => $mark->confidence, 'deleted_at' => null, 'revision' => $origin->revision + 1])->save();
            self::remember($origin, $action, $before, $by);
        }
        if ($draft->answers != $into->answers || $draft->tags != $into->tags || $draft->stretches != $into->stretches) {
            self::said($draft, $into, $action, $by);
        }
        Layers::count($into);
        Layers::sayNothing($into, $into->mark_count === 0 && ($draft->nothing || $into->nothing));
    }

    private static function delete(MarkRow $mark, string $action, ?User $by): void
    {
        $before = $mark->mark()->toArray();
        $mark->fill(['deleted_at' => now(), 'revision' => $mark->revision + 1])->save();
        self::remember($mark, $action, $before, $by);
    }

    /** @param  array<string, mixed>|null  $before */
    private static function remember(MarkRow $mark, string $action, ?array $before, ?User $by): void
    {
        History::write([History::entry($mark->item_id, $mark->layer_id, $mark->id, $mark->revision, $action, $before, $mark->deleted_at !== null ? null : $mark->mark()->toArray(), $by?->id)]);
    }
}
