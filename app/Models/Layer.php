<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\LayerKind;

/**
 * A sheet of marks over an item, with what is said of the item on it.
 *
 * @property int $id
 * @property int $project_id
 * @property int $item_id
 * @property ?int $assignment_id of a blind layer or a draft
 * @property ?int $run_id of suggestions: the run they came from
 * @property LayerKind $kind
 * @property ?int $pass
 * @property string $name its own within the item
 * @property bool $nothing somebody said that nothing is there
 * @property int $mark_count marks that are not deleted
 * @property array<string, mixed> $answers
 * @property list<string> $tags
 * @property list<array<string, mixed>> $stretches of an item with an axis: tags and answers that hold for some of its places
 * @property int $revision of what is said: 0 until something is
 * @property ?int $author_id of what is said
 * @property string $source
 * @property Item $item
 * @property ?Run $run
 */
final class Layer extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['kind' => LayerKind::class, 'nothing' => 'bool', 'answers' => 'array', 'tags' => 'array', 'stretches' => 'array'];
    }

    /** @return BelongsTo<Item, $this> */
    public function item(): BelongsTo
    {
        return $this->belongsTo(Item::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return HasMany<MarkRow, $this> */
    public function marks(): HasMany
    {
        return $this->hasMany(MarkRow::class);
    }

    public function said(): ItemAnswers
    {
        return ItemAnswers::fromArray(['answers' => $this->answers, 'tags' => $this->tags, 'stretches' => $this->stretches]);
    }
}
