<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * The reading of the words of a document's pages from their pictures.
 *
 * @property int $id
 * @property int $asset_id
 * @property string $state waiting, working, done, failed or cancelled
 * @property int $done pages
 * @property int $total pages
 * @property string $error
 * @property Asset $asset
 */
final class Reading extends Model
{
    /** @return BelongsTo<Asset, $this> */
    public function asset(): BelongsTo
    {
        return $this->belongsTo(Asset::class);
    }
}
