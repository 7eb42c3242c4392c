<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Formats\Labelled;
use Skeno\Core\Workflow\ItemState;

/**
 * One picture of a project.
 *
 * @property int $id
 * @property int $project_id
 * @property int $set_id
 * @property int $asset_id
 * @property string $path set and file name, unique in the project
 * @property ItemState $state derived from the turns, kept for queries
 * @property bool $nothing somebody said that nothing is there
 * @property int $mark_count marks in the agreed layer
 * @property ?string $part train, val or test where the data came with a split
 * @property array<string, string> $facts of one's own about the picture
 * @property ?CarbonImmutable $archived_at
 * @property Asset $asset
 * @property Set $set
 */
final class Item extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['state' => ItemState::class, 'nothing' => 'bool', 'facts' => 'array', 'archived_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Asset, $this> */
    public function asset(): BelongsTo
    {
        return $this->belongsTo(Asset::class);
    }

    /** @return BelongsTo<Set, $this> */
    public function set(): BelongsTo
    {
        return $this->belongsTo(Set::class);
    }

    /** @return HasMany<Turn, $this> */
    public function turns(): HasMany
    {
        return $this->hasMany(Turn::class);
    }

    /** @return HasMany<MarkRow, $this> */
    public function marks(): HasMany
    {
        return $this->hasMany(MarkRow::class);
    }

    public function labelled(): Labelled
    {
        return $this->mark_count > 0 ? Labelled::Objects : ($this->nothing ? Labelled::Nothing : Labelled::Unlabelled);
    }
}
