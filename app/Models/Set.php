<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * Items that came in together: a sub-folder.
 *
 * @property int $id
 * @property int $project_id
 * @property string $path
 */
final class Set extends Model
{
    /** @return HasMany<Item, $this> */
    public function items(): HasMany
    {
        return $this->hasMany(Item::class);
    }
}
