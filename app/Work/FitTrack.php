<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\ClipStore;
use App\Models\Item;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Follow\Fit;
use Skeno\Core\Follow\Placed;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Track;

/** Finds the frame at which what lies between the keys of a track fits the picture worst, and where it would fit. Nothing is stored. */
final class FitTrack
{
    /** Frames judged in one answer: about a second of work. */
    public const MOST = 96;

    private const MOST_KEYS = 400;

    /** Numbers in the shapes of all keys: outlines are matched point by point. */
    private const MOST_NUMBERS = 40_000;

    /** Of the frames it fits worst, how many are looked at closely. */
    private const TRIED = 5;

    /** What a bad fit counts where it can't be told where it is instead: it may only be covered. */
    private const UNSURE = 0.25;

    public function __construct(private readonly ClipStore $clips)
    {
    }

    /**
     * @param  Fields  $in  `{kind, keys: [{place, geometry, hidden?}], stretches, first, last}`: the keys in and round the frames from first to last
     * @return array{judged: int, worst: ?array{place: int, likeness: float, misfit: float, geometry: ?object, certainty: ?float, unsure: ?string}} misfit: 0 to 1, how far from there it would fit
     *
     * @throws InvalidValue
     */
    public function __invoke(Item $item, Fields $in): array
    {
        $places = $item->frames() ?? throw InvalidValue::at('item', $item->path, 'a clip');
        $track = $this->track($in, $places);
        $first = $in->int('first', 0, $places - 1);
        $last = $in->int('last', $first, min($places - 1, $first + self::MOST - 1));
        $fit = new Fit($track);
        $before = $track->before($first);
        // a key on the first frame is seen with it
        foreach ([$before?->place === $first ? null : $before, $track->after($last)] as $key) {
            if ($key !== null) {
                $this->clips->planes($item->asset, $key->place, 1, static fn (Plane $plane, float $scale, int $place) => $fit->key($plane, $scale, $place));
            }
        }
        $this->clips->planes($item->asset, $first, $last - $first + 1, static fn (Plane $plane, float $scale, int $place) => $fit->frame($plane, $scale, $place));
        $worst = null;
        foreach ($fit->doubtful(self::TRIED) as $place => $likeness) {
            $found = $this->closely($item, $fit, $place, $likeness);
            if ($worst === null || $found['misfit'] > $worst['misfit']) {
                $worst = $found;
            }
        }

        return ['judged' => count($fit->judged()), 'worst' => $worst];
    }

    /** @return array{place: int, likeness: float, misfit: float, geometry: ?object, certainty: ?float, unsure: ?string} */
    private function closely(Item $item, Fit $fit, int $place, float $likeness): array
    {
        $placed = null;
        $this->clips->planes($item->asset, $place, 1, static function (Plane $plane, float $scale) use ($fit, $place, &$placed): void {
            $placed = $fit->placed($plane, $scale, $place);
        });
        /** @var ?Placed $placed */
        $isSure = $placed?->isSure() === true;

        return [
            'place' => $place,
            'likeness' => round($likeness, 4),
            'misfit' => round($isSure ? $placed->misfit : self::UNSURE * (1 - $likeness), 4),
            'geometry' => $isSure ? (object) $placed->shape->toArray() : null,
            'certainty' => $placed?->certainty,
            'unsure' => $placed === null ? 'its shape can not be taken along' : $placed->unsure,
        ];
    }

    /** @throws InvalidValue */
    private function track(Fields $in, int $places): Track
    {
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        $keys = [];
        $numbers = 0;
        foreach ($in->objects('keys') as $i => $key) {
            $numbers += count($key->object('geometry')->all(), COUNT_RECURSIVE);
            if ($i >= self::MOST_KEYS || $numbers > self::MOST_NUMBERS) {
                throw InvalidValue::at('keys', $i + 1, 'fewer keys or plainer shapes at a time');
            }
            $keys[] = Key::of($key->int('place', 0, $places - 1), $kind->flat($key->object('geometry'), "keys[{$i}].geometry"), [], $key->bool('hidden'));
        }

        return Track::of($keys, Places::fromArray($in->list('stretches'), 'stretches'));
    }
}
