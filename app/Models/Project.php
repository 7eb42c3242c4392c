<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * A project: what is labelled, by whom, under which codebook.
 *
 * @property int $id
 * @property string $name
 * @property string $description
 * @property string $group
 * @property bool $own_review whether people may review their own work
 * @property bool $require_seen whether all of a picture must have been on the screen before it is submitted or accepted
 * @property float $seen_zoom px of the screen a px of the picture must have for that
 * @property bool $slip_guard whether a class that does not fit the looks of an object is doubted at the pointer
 * @property ?array{model: int, classes: array<string, string>, nodes?: array<string, array<string, string>>, tags?: array<string, string>, from: float|int, then: int|string|null} $model_stage the model new pictures are asked of before a labeller sees them
 * @property ?\Carbon\CarbonImmutable $looks_asked_at since when a worker has been asked to look at what is new
 */
final class Project extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['own_review' => 'bool', 'slip_guard' => 'bool', 'require_seen' => 'bool', 'seen_zoom' => 'float', 'looks_asked_at' => 'immutable_datetime', 'model_stage' => 'array'];
    }

    /** @return HasMany<Membership, $this> */
    public function memberships(): HasMany
    {
        return $this->hasMany(Membership::class);
    }

    /** @return HasMany<Item, $this> */
    public function items(): HasMany
    {
        return $this->hasMany(Item::class);
    }

    /** @return HasMany<Set, $this> */
    public function sets(): HasMany
    {
        return $this->hasMany(Set::class);
    }

    /** @return HasMany<Turn, $this> */
    public function turns(): HasMany
    {
        return $this->hasMany(Turn::class);
    }

    /** @return HasMany<Assignment, $this> */
    public function assignments(): HasMany
    {
        return $this->hasMany(Assignment::class);
    }

    /** @return HasMany<Import, $this> */
    public function imports(): HasMany
    {
        return $this->hasMany(Import::class);
    }

    /** @return HasMany<Release, $this> */
    public function releases(): HasMany
    {
        return $this->hasMany(Release::class);
    }

    /** @return HasMany<CodebookVersion, $this> */
    public function codebooks(): HasMany
    {
        return $this->hasMany(CodebookVersion::class);
    }

    /** @return HasMany<HandbookVersion, $this> */
    public function handbooks(): HasMany
    {
        return $this->hasMany(HandbookVersion::class);
    }

    /** @return HasMany<Invitation, $this> */
    public function invitations(): HasMany
    {
        return $this->hasMany(Invitation::class);
    }

    public function codebookVersion(): CodebookVersion
    {
        return $this->codebooks()->orderByDesc('version')->firstOrFail();
    }
}
