<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use Skeno\Core\InvalidValue;

/** One stop of a route: what is done there, on which share of the items, and by how many people each. */
final readonly class Station
{
    private function __construct(public Stage $stage, public float $share, public int $overlap)
    {
    }

    /**
     * @param  float  $share  of the items that stop here, above 0 to 1; only of stations that decide
     * @param  int  $overlap  people who each do the same item without seeing the others' marks, from 1; only where it is labelled
     *
     * @throws InvalidValue
     */
    public static function of(Stage $stage, float $share = 1.0, int $overlap = 1): self
    {
        if (! ($share > 0 && $share <= 1) || ($share < 1 && ! $stage->decides())) {
            throw InvalidValue::at('share', $share, $stage->decides() ? 'a share above 0, at most 1' : '1, since every item is labelled');
        }
        if ($overlap < 1 || $overlap > 20 || ($overlap > 1 && $stage !== Stage::Label)) {
            throw InvalidValue::at('overlap', $overlap, $stage === Stage::Label ? '1 to 20 people' : '1 person');
        }

        return new self($stage, $share, $overlap);
    }

    /**
     * Whether an item stops here: for the same station and item always the same, and independent of other stations.
     *
     * @param  string  $salt  what tells this station from others, such as its id
     */
    public function takes(int $item, string $salt): bool
    {
        return $this->share >= 1.0 || hexdec(substr(hash('sha256', "{$salt} {$item}"), 0, 12)) / 0xFFFFFFFFFFFF < $this->share;
    }
}
