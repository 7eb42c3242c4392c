<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsToMany;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Station as Rules;

/**
 * A stop on the route of an assignment, with the people who work there.
 *
 * @property int $id
 * @property int $assignment_id
 * @property int $place on the route, from 0
 * @property Stage $stage
 * @property float $share of the items that stop here
 * @property int $overlap people who each do the same item
 * @property \Illuminate\Database\Eloquent\Collection<int, User> $people
 */
final class Station extends Model
{
    public $timestamps = false;

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['stage' => Stage::class, 'share' => 'float'];
    }

    /** @return BelongsToMany<User, $this> */
    public function people(): BelongsToMany
    {
        return $this->belongsToMany(User::class, 'station_people');
    }

    public function value(): Rules
    {
        return Rules::of($this->stage, $this->share, $this->overlap);
    }
}
