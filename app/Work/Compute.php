<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\Views;
use App\Looks\LookAtObjects;
use App\Models\Turn;
use Skeno\Core\Assist\Computation;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Quality\Looks;

/** What the bench asks the core to work out for the shape in hand. */
final class Compute
{
    public function __construct(private readonly Views $views)
    {
    }

    /** @return array<string, mixed> */
    public function __invoke(Turn $turn, Fields $in): array
    {
        $asset = $turn->item->asset;
        $places = $turn->item->places();
        $place = $places === null ? null : $in->optionalInt('place', 0, $places - 1);
        if ($in->raw('op') === 'looks') {
            return $this->looks($turn, $in, $place);
        }
        $brightness = fn (int $x, int $y, int $width, int $height): Plane => $this->views->brightness($asset, $place, $x, $y, $width, $height);
        $computed = (new Computation($turn->project->codebookVersion()->codebook(), $asset->width, $asset->height, $brightness))->run($in);

        return ['geometry' => (object) $computed['geometry'], 'doubt' => null] + $computed;
    }

    /**
     * The slip guard: whether another class of the project fits the looks of what has been drawn much better than the one it was given.
     *
     * @return array<string, mixed>
     */
    private function looks(Turn $turn, Fields $in, ?int $place): array
    {
        $asset = $turn->item->asset;
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $geometry = $kind->flat($in->object('geometry'), 'geometry');
        $bounds = $geometry->bounds();
        $doubt = null;
        if ($turn->project->slip_guard && ! $bounds->isEmpty()) {
            $known = LookAtObjects::known($turn->project_id);
            // the picture is read only where there is something to compare with
            $swatch = count($known->classes()) < 2 ? null : $this->views->open($asset, $place)->swatch($bounds);
            $doubt = $swatch === null ? null : $known->doubt($in->string('class', 64), Looks::ofObject($swatch, $bounds, $asset->width, $asset->height));
        }

        return ['kind' => $kind->value, 'geometry' => (object) $geometry->toArray(), 'changed' => 0, 'air' => null, 'doubt' => $doubt];
    }
}
