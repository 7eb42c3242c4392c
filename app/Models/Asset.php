<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * A picture file, stored once by the hash of its bytes. Width and height are those of the upright picture.
 *
 * @property int $id
 * @property string $sha256
 * @property int $bytes
 * @property string $format
 * @property int $width
 * @property int $height
 * @property int $orientation
 * @property int $depth
 * @property string $color_space
 * @property string $kind picture, clip, …
 * @property array<string, mixed> $facts what a file of another kind than a picture is
 * @property ?CarbonImmutable $derived_at
 */
final class Asset extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['facts' => 'array', 'derived_at' => 'immutable_datetime'];
    }
}
