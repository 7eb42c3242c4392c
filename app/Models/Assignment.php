<?php

declare(strict_types=1);

namespace App\Models;

use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Skeno\Core\Workflow\Route;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Station as Rules;

/**
 * Items handed to people, with the rules for that lot and the stations they pass.
 *
 * @property int $id
 * @property int $project_id
 * @property string $note
 * @property int $priority
 * @property array<string, mixed> $rules
 * @property ?int $created_by
 * @property CarbonImmutable $created_at
 * @property \Illuminate\Database\Eloquent\Collection<int, Station> $stations in the order of the route
 */
final class Assignment extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['rules' => 'array', 'created_at' => 'immutable_datetime'];
    }

    /** @return HasMany<Station, $this> */
    public function stations(): HasMany
    {
        return $this->hasMany(Station::class)->orderBy('place');
    }

    /** @return HasMany<Turn, $this> */
    public function turns(): HasMany
    {
        return $this->hasMany(Turn::class);
    }

    /** Whether its queue begins with what models are least sure of. */
    public function isByDoubt(): bool
    {
        return ($this->rules['order'] ?? null) === 'doubt';
    }

    /** Confidence from which on suggestions count as looked at once a picture has been seen whole; null: a hand confirms each. */
    public function sureFrom(): ?float
    {
        $sure = $this->rules['sure'] ?? null;

        return is_int($sure) || is_float($sure) ? (float) $sure : null;
    }

    public function route(): Route
    {
        return Route::of(array_values($this->stations->map(static fn (Station $station): Rules => $station->value())->all()));
    }

    /** The station that decides on an item after this stage; null when none does. */
    public function after(Stage $stage, int $item): ?Station
    {
        $place = $this->route()->next($stage, $item, (string) $this->id);

        return $place === null ? null : $this->stations->values()->get($place);
    }

    public function station(Stage $stage): ?Station
    {
        return $this->stations->firstWhere('stage', $stage);
    }
}
