<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * One file of an import and what became of it.
 *
 * @property int $id
 * @property int $import_id
 * @property ?int $item_id
 * @property string $path
 * @property int $bytes
 * @property int $received
 * @property string $state receiving, received, taken, known, refused, passed or failed
 * @property string $reason
 * @property string $progress how far it is while it is being taken, in words
 * @property Import $import
 */
final class ImportFile extends Model
{
    /** @return BelongsTo<Import, $this> */
    public function import(): BelongsTo
    {
        return $this->belongsTo(Import::class);
    }
}
