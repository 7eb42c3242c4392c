<?php

declare(strict_types=1);

namespace Skeno\Core\Workflow;

use Skeno\Core\InvalidValue;

/**
 * The stations an item passes, in order: (model →) label → (review →) (expert). A decision sends the item on, or back to where it was
 * labelled; the last decision is the word on it.
 */
final readonly class Route
{
    /** @param  non-empty-list<Station>  $stations */
    private function __construct(public array $stations)
    {
    }

    /**
     * @param  list<Station>  $stations
     *
     * @throws InvalidValue
     */
    public static function of(array $stations): self
    {
        $stages = array_map(static fn (Station $station): Stage => $station->stage, $stations);
        $order = array_map(static fn (Stage $stage): int => (int) array_search($stage, Stage::cases(), true), $stages);
        $sorted = $order;
        sort($sorted);
        if ($stations === [] || ! in_array(Stage::Label, $stages, true) || $order !== $sorted || count(array_unique($order)) !== count($order)) {
            throw InvalidValue::at('stations', implode(' → ', array_map(static fn (Stage $stage): string => $stage->value, $stages)), 'model, label, review and expert in this order, each at most once, label always');
        }
        $route = new self($stations);
        if ($route->label()->overlap > 1 && $route->next(Stage::Label, 0, '') === null) {
            throw InvalidValue::at('overlap', $route->label()->overlap, 'a review, since somebody has to resolve what several people have labelled');
        }

        return $route;
    }

    public function label(): Station
    {
        foreach ($this->stations as $station) {
            if ($station->stage === Stage::Label) {
                return $station;
            }
        }
        throw InvalidValue::at('stations', '', 'a station where the items are labelled');
    }

    /**
     * Which station decides on an item after this one: its place in the route; null when nobody does. What several have labelled is
     * always looked at, since it has to be resolved.
     *
     * @param  string  $salt  what tells this route from others, such as its assignment's id
     */
    public function next(Stage $after, int $item, string $salt): ?int
    {
        $passed = false;
        foreach ($this->stations as $place => $station) {
            if ($passed && $station->stage->decides() && ($this->label()->overlap > 1 || $station->takes($item, "{$salt} {$station->stage->value}"))) {
                return $place;
            }
            $passed = $passed || $station->stage === $after;
        }

        return null;
    }
}
