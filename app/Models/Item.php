<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Workflow\ItemState;

/**
 * One thing of a project that is labelled.
 *
 * @property int $id
 * @property int $project_id
 * @property int $set_id
 * @property int $asset_id
 * @property string $kind picture, clip, …
 * @property string $path set and file name, unique in the project
 * @property ItemState $state derived from the turns, kept for queries
 * @property bool $nothing as its agreed layer says, kept for queries
 * @property int $mark_count of its agreed layer, kept for queries
 * @property ?string $part train, val or test where the data came with a split
 * @property array<string, string> $facts of one's own about the picture
 * @property ?CarbonImmutable $archived_at
 * @property ?int $helping_run_id the run of a model it waits for before it is given to a labeller
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

    /** An item never is without the layer its labels come to stand in. */
    protected static function booted(): void
    {
        self::created(static fn (self $item) => Layer::query()->create(['project_id' => $item->project_id, 'item_id' => $item->id, 'kind' => LayerKind::Agreed, 'name' => LayerKind::Agreed->name()]));
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

    /** How many places its axis has: the frames of a clip, the pages of a document, the slices of a volume, the frames of a cloud; null: it has none. */
    public function places(): ?int
    {
        $places = match ($this->kind) {
            'clip' => $this->asset->facts['frames'] ?? null,
            'document' => $this->asset->facts['pages'] ?? null,
            'volume' => $this->asset->facts['slices'] ?? null,
            'cloud' => $this->asset->facts['frames'] ?? null,
            default => null,
        };

        return is_int($places) ? $places : null;
    }

    /** How many frames a clip has; null: it is none. */
    public function frames(): ?int
    {
        return $this->kind === 'clip' ? $this->places() : null;
    }

    /** What its marks lie on. */
    public function extent(): Extent
    {
        if ($this->kind === 'document') {
            return Extent::pages(Sheets::fromArray($this->asset->facts['sheets'] ?? null, 'facts.sheets'));
        }
        if ($this->kind === 'volume') {
            return Extent::slices($this->asset->width, $this->asset->height, $this->places() ?? 1);
        }
        if ($this->kind === 'cloud') {
            return Extent::space($this->places() ?? 1);
        }
        $length = $this->kind === 'text' ? $this->asset->facts['length'] ?? 0 : null;

        return is_int($length) ? Extent::text($length) : Extent::plane($this->asset->width, $this->asset->height, $this->places());
    }

    public function labelled(): Labelled
    {
        return $this->mark_count > 0 ? Labelled::Objects : ($this->nothing ? Labelled::Nothing : Labelled::Unlabelled);
    }
}
