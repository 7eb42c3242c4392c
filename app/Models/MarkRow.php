<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Key;

/**
 * A mark as stored; a deleted one stays, so that undo and history have it.
 *
 * @property string $id
 * @property int $project_id
 * @property int $item_id
 * @property ?int $turn_id
 * @property int $layer_id
 * @property string $layer the kind of its layer, which never changes, for those who look for marks over many items
 * @property ?int $author_id
 * @property string $source a MarkSource
 * @property string $class
 * @property string $kind
 * @property array<string, mixed> $geometry
 * @property array<string, mixed> $answers
 * @property ?int $stack
 * @property ?string $part_of
 * @property list<string> $flags
 * @property ?string $suggestion_id the suggestion a hand has confirmed
 * @property ?string $origin_id in a draft: the agreed mark it was copied from
 * @property ?int $origin_revision how that was then
 * @property ?int $place on the item's axis
 * @property ?list<array{int, int}> $stretches of places in which a track is there
 * @property int $revision
 * @property ?float $confidence how sure the model it came from was, 0 to 1
 * @property ?float $width of the box around it, in px; null until the worker has looked at it
 * @property ?float $height
 * @property ?float $oddness how far it lies from the looks of its class, in usual distances
 * @property ?CarbonImmutable $deleted_at
 * @property ?User $author
 * @property Item $item
 */
final class MarkRow extends Model
{
    /** Marks that count, in the very words of the partial index `marks_sheet`, which the database knows only by them. */
    public const STANDS = "marks.layer = 'agreed' and marks.deleted_at is null";

    protected $table = 'marks';

    public $incrementing = false;

    protected $keyType = 'string';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['geometry' => 'array', 'answers' => 'array', 'flags' => 'array', 'stretches' => 'array', 'deleted_at' => 'immutable_datetime'];
    }

    /** What was known of its looks goes with the shape it was known of. */
    protected static function booted(): void
    {
        self::saving(static function (self $mark): void {
            if ($mark->exists && $mark->isDirty('geometry')) {
                $mark->width = $mark->height = null;
                DB::table('looks')->where('mark_id', $mark->id)->delete();
            }
            if ($mark->isDirty(['geometry', 'class'])) {
                $mark->oddness = null;
            }
        });
    }

    /** @return BelongsTo<User, $this> */
    public function author(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Item, $this> */
    public function item(): BelongsTo
    {
        return $this->belongsTo(Item::class);
    }

    /** @return BelongsTo<Layer, $this> */
    public function sheet(): BelongsTo
    {
        return $this->belongsTo(Layer::class, 'layer_id');
    }

    /** @param  list<Key>  $keys  of a track, where all of it is asked for */
    public function mark(bool $withAuthor = false, array $keys = []): Mark
    {
        $mark = Mark::fromArray(array_filter([
            'id' => $this->id, 'class' => $this->class, 'kind' => $this->kind, 'geometry' => $this->geometry, 'answers' => $this->answers, 'stack' => $this->stack, 'part_of' => $this->part_of, 'flags' => $this->flags ?? [], 'confidence' => $this->confidence,
            'place' => $this->place, 'stretches' => $this->stretches,
            'author' => $withAuthor ? ($this->source === 'import' ? 'import' : $this->author?->name) : null,
        ], static fn (mixed $value): bool => $value !== null), known: true);

        return $keys === [] ? $mark : $mark->through($mark->place, $mark->there, $keys);
    }
}
