<?php

declare(strict_types=1);

namespace App\Work;

use App\Documents\Words;
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
    public function __construct(private readonly Views $views, private readonly Words $words)
    {
    }

    /** @return array<string, mixed> */
    public function __invoke(Turn $turn, Fields $in): array
    {
        $asset = $turn->item->asset;
        $places = $turn->item->places();
        $place = $places === null ? null : $in->optionalInt('place', 0, $places - 1);
        $on = $turn->item->extent()->at($place);
        if ($in->raw('op') === 'words') {
            return $this->words($turn, $in, $place);
        }
        if ($in->raw('op') === 'looks') {
            return $this->looks($turn, $in, $place);
        }
        $brightness = fn (int $x, int $y, int $width, int $height): Plane => $this->views->brightness($asset, $place, $x, $y, $width, $height);
        $computed = (new Computation($turn->project->codebookVersion()->codebook(), $on->width, $on->height, $brightness))->run($in);

        return ['geometry' => (object) $computed['geometry'], 'doubt' => null, 'words' => null] + $computed;
    }

    /**
     * What is written under a mark on a page, and the mark drawn close around those words where it is an upright box.
     *
     * @return array<string, mixed>
     */
    private function words(Turn $turn, Fields $in, ?int $place): array
    {
        if ($turn->item->kind !== 'document' || $place === null) {
            throw InvalidValue::at('op', 'words', 'something else: this item has no pages');
        }
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $geometry = $kind->flat($in->object('geometry'), 'geometry');
        $page = $this->words->of($turn->item->asset, $place);
        $under = $page['words']->in($geometry->bounds());
        $on = $turn->item->extent()->at($place);
        $around = $kind === Shape::Box ? $under->around($on->width, $on->height) : null;

        return [
            'kind' => $kind->value, 'geometry' => (object) ($around ?? $geometry)->toArray(), 'changed' => 0, 'air' => null, 'doubt' => null,
            'words' => ['text' => $under->text(), 'confidence' => $under->confidence(), 'source' => $page['source'], 'reason' => $page['reason']],
        ];
    }

    /**
     * The slip guard: whether another class of the project fits the looks of what has been drawn much better than the one it was given.
     *
     * @return array<string, mixed>
     */
    private function looks(Turn $turn, Fields $in, ?int $place): array
    {
        $asset = $turn->item->asset;
        $on = $turn->item->extent()->at($place);
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $geometry = $kind->flat($in->object('geometry'), 'geometry');
        $bounds = $geometry->bounds();
        $doubt = null;
        if ($turn->project->slip_guard && ! $bounds->isEmpty()) {
            $known = LookAtObjects::known($turn->project_id);
            // the picture is read only where there is something to compare with
            $swatch = count($known->classes()) < 2 ? null : $this->views->open($asset, $place)->swatch($bounds);
            $doubt = $swatch === null ? null : $known->doubt($in->string('class', 64), Looks::ofObject($swatch, $bounds, $on->width, $on->height));
        }

        return ['kind' => $kind->value, 'geometry' => (object) $geometry->toArray(), 'changed' => 0, 'air' => null, 'doubt' => $doubt, 'words' => null];
    }
}
