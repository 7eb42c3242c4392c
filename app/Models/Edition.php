<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Formats\Format;

/**
 * A release written in one format.
 *
 * @property int $id
 * @property int $release_id
 * @property Format $format
 * @property bool $pictures
 * @property string $layout where it has several: empty for the first of them
 * @property string $frames of clips, in a format of pictures: which of their frames; empty for those with keys
 * @property string $state waiting, working, done or failed
 * @property ?int $bytes
 * @property ?string $sha256
 * @property ?array<string, mixed> $report
 * @property string $error
 * @property Release $release
 */
final class Edition extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['format' => Format::class, 'pictures' => 'bool', 'report' => 'array'];
    }

    /** @return BelongsTo<Release, $this> */
    public function release(): BelongsTo
    {
        return $this->belongsTo(Release::class);
    }
}
