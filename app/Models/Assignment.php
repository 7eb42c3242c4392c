<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * Items handed to people, with the rules for that lot.
 *
 * @property int $id
 * @property int $project_id
 * @property string $note
 * @property int $priority
 * @property bool $needs_review
 * @property int $overlap
 * @property array<string, mixed> $rules
 * @property ?int $created_by
 * @property CarbonImmutable $created_at
 * @property \Illuminate\Database\Eloquent\Collection<int, AssignmentPerson> $people
 */
final class Assignment extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['needs_review' => 'bool', 'rules' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return HasMany<AssignmentPerson, $this> */
    public function people(): HasMany
    {
        return $this->hasMany(AssignmentPerson::class);
    }

    /** @return HasMany<Turn, $this> */
    public function turns(): HasMany
    {
        return $this->hasMany(Turn::class);
    }
}
