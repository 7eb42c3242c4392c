<?php

declare(strict_types=1);

namespace App\Looks;

use App\Files\CloudStore;
use App\Models\Asset;
use Illuminate\Support\Collection;
use Skeno\Core\Cloud\Measure;

/** Measures the cuboids of a cloud: those of a frame together, so that its points are gone through once. */
final class MeasureCuboids
{
    public function __construct(private readonly CloudStore $clouds)
    {
    }

    /**
     * @param  Collection<int, \stdClass>  $marks  rows with `id`, `geometry` and `place`
     * @return array<string, Measure> by mark
     */
    public function of(Asset $asset, Collection $marks): array
    {
        $measures = [];
        foreach ($marks->groupBy(static fn (\stdClass $mark): int => (int) ($mark->place ?? 0)) as $place => $here) {
            $frame = $this->clouds->isMade($asset->sha256) ? $this->clouds->frame($asset, (int) $place) : null;
            $of = Measure::all($here->map(static fn (\stdClass $mark): mixed => json_decode((string) $mark->geometry, true))->values()->all(), $frame);
            foreach ($here->values() as $i => $mark) {
                $measures[(string) $mark->id] = $of[$i];
            }
        }

        return $measures;
    }
}
