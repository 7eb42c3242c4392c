<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A remark fixed to a spot on a picture.
 *
 * @property int $id
 * @property int $item_id
 * @property int $turn_id
 * @property ?int $author_id
 * @property ?string $mark_id
 * @property ?int $place on the item's axis
 * @property ?float $x
 * @property ?float $y
 * @property ?float $z
 * @property ?int $offset in a text
 * @property string $text
 * @property ?User $author
 */
final class Pin extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['x' => 'float', 'y' => 'float', 'z' => 'float'];
    }

    /** @return BelongsTo<User, $this> */
    public function author(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
