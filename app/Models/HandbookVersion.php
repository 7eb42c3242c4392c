<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;

/**
 * One version of the written rules, in Markdown.
 *
 * @property int $id
 * @property int $project_id
 * @property int $version
 * @property string $body
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
}
