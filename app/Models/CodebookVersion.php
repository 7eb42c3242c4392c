<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Codebook\Codebook;

/**
 * One version of a project's codebook; versions are never changed.
 *
 * @property int $id
 * @property int $project_id
 * @property int $version
 * @property string $body
 * @property array<string, ?string> $mapping where the words of the version before went
 * @property list<array<string, mixed>> $report what became of the labels
 * @property string $note
 * @property ?int $created_by
 * @property CarbonImmutable $created_at
 * @property ?User $author
 */
final class CodebookVersion extends Model
{
    protected $table = 'codebooks';

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['mapping' => 'array', 'report' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function author(): BelongsTo
    {
        return $this->belongsTo(User::class, 'created_by');
    }

    public function codebook(): Codebook
    {
        return Codebook::stored($this->body);
    }
}
