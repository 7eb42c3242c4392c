<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\Views;
use App\Items\Layers;
use App\Models\Layer;
use App\Models\Turn;
use App\Support\Refusal;
use Skeno\Core\Assist\AirCheck;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\MarkCheck;

/** What the core finds on an item. */
final class Checks
{
    /** Larger pictures are not read while somebody waits for the next one. */
    private const MOST_PIXELS = 8_000_000;

    public function __construct(private readonly Views $views)
    {
    }

    /** @return list<Finding> */
    public function findings(Turn $turn): array
    {
        return $this->of($turn->layer, $turn->project->codebookVersion()->codebook());
    }

    /** @return list<Finding> the same while a hand draws: of tracks only the keys are looked at that were found faulty when they were written */
    public function live(Turn $turn): array
    {
        return $this->of($turn->layer, $turn->project->codebookVersion()->codebook(), true);
    }

    /** @return list<Finding> */
    public function of(Layer $layer, Codebook $codebook, bool $telling = false): array
    {
        return (new MarkCheck($codebook))->item(Layers::marks($layer, $telling), $layer->item->extent(), $layer->said());
    }

    /** @return list<Finding> boxes that leave more air than their class allows; reads the picture, so never under a lock */
    public function air(Turn $turn): array
    {
        $check = new AirCheck($turn->project->codebookVersion()->codebook());
        $marks = Layers::marks($turn->layer);
        $asset = $turn->item->asset;
        // (a track is drawn on many frames; how tight it is there is not worked out while somebody waits)
        if ($turn->item->places() !== null || $asset->width * $asset->height > self::MOST_PIXELS || array_filter($marks, $check->concerns(...)) === []) {
            return [];
        }

        return $check->item($marks, $this->views->brightness($asset, null, 0, 0, $asset->width, $asset->height));
    }

    /**
     * @param  bool  $nothing  the person says that nothing is there to label
     * @param  bool  $anyway  go on in spite of doubts (never in spite of findings that stop)
     * @param  list<Finding>  $air
     *
     * @throws Refusal
     */
    public function mustBeComplete(Turn $turn, bool $nothing, bool $anyway, array $air = []): void
    {
        $count = $turn->layer->mark_count;
        if ($count === 0 && ! $nothing) {
            throw Refusal::because('nothing_marked', 'nothing is marked here; say so if there is nothing to label');
        }
        if ($count > 0 && $nothing) {
            throw Refusal::because('objects_marked', "there are {$count} marks on this item, so \"nothing here\" can't be right");
        }
        $findings = [...$this->findings($turn), ...$air];
        $stops = array_filter($findings, static fn (Finding $finding): bool => $finding->stops);
        if ($stops !== [] || ($findings !== [] && ! $anyway)) {
            $more = count($stops) - 1;
            throw Refusal::because($stops !== [] ? 'findings' : 'doubts', $stops !== [] ? reset($stops)->message.($more > 0 ? ", and {$more} more" : '') : 'please look at these once more', [
                'findings' => array_map(static fn (Finding $finding): array => $finding->toArray(), $findings),
            ]);
        }
    }
}
