<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * One version of the written rules, in Markdown.
 *
 * @property int $id
 * @property int $project_id
 * @property int $version
 * @property string $body
 * @property ?int $file_id a PDF that is the handbook instead of the text
 * @property ?HandbookFile $file
 * @property ?int $created_by
 * @property CarbonImmutable $created_at
 */
final class HandbookVersion extends Model
{
    protected $table = 'handbooks';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<HandbookFile, $this> */
    public function file(): BelongsTo
    {
        return $this->belongsTo(HandbookFile::class);
    }
}
