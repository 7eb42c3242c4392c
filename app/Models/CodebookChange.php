<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A new codebook on its way: its version comes into force when the last mark has been put into its words.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $created_by
 * @property int $base version it follows
 * @property string $body
 * @property array<string, ?string> $mapping
 * @property string $note
 * @property string $state checking, working, done or failed
 * @property string $cursor id of the last mark looked at
 * @property int $done
 * @property int $total
 * @property int $rewritten
 * @property list<array<string, mixed>> $report
 * @property string $error why it could not go on, while it could not
 * @property CarbonImmutable $created_at
 * @property Project $project
 */
final class CodebookChange extends Model
{
    /** While it is looked up which words are in use: who saves it waits for that, a minute at the most. */
    public const CHECKING = 'checking';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['mapping' => 'array', 'report' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Project, $this> */
    public function project(): BelongsTo
    {
        return $this->belongsTo(Project::class);
    }
}
