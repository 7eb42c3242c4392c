<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\Views;
use App\Models\Turn;
use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\MinCut;
use Skeno\Core\Cutout\Mixture;
use Skeno\Core\Cutout\Window;
use Skeno\Core\Cutout\Wish;
use Skeno\Core\Fields;
use Skeno\Core\Volume\Standing;

/**
 * Cuts out what is in a rough box. Nothing is stored but what the next click of the same hand goes on from: that may be lost at any time, since
 * every request says all that was asked so far.
 */
final class CutFromBox
{
    public function __construct(private readonly Views $views)
    {
    }

    /**
     * @param  Fields  $in  `{box, strokes?, loose?, as, tolerance?, place?, plane?}`; a plane stands on the slices of a volume, `xz-12`
     * @param  int  $user  whose hand it is
     * @return array<string, mixed>
     */
    public function __invoke(Turn $turn, Fields $in, int $user): array
    {
        $wish = Wish::fromFields($in);
        $asset = $turn->item->asset;
        $places = $turn->item->places();
        $plane = $this->views->standing($asset, $in);
        $place = $places === null || $plane !== null ? null : $in->int('place', 0, $places - 1);
        $on = $plane ?? $turn->item->extent()->at($place);
        $window = $wish->window($on->width, $on->height);
        $at = hash('sha256', serialize([$asset->sha256, $place, $plane, $window]));
        $file = storage_path("tmp/cutout-{$turn->id}-{$user}");
        [$cutout, $done] = $this->begun($file, $at, $wish) ?? [$this->begin($turn, $place, $plane, $window), 0];
        foreach (array_slice($wish->strokes, $done) as $stroke) {
            $cutout->stroke($window->stroke($stroke));
        }
        $answer = $wish->answer($cutout, $window);
        if ($done < count($wish->strokes) || $done === 0) {
            $this->keep($file, ['at' => $at, 'strokes' => serialize($wish->strokes), 'cutout' => $cutout]);
        }

        return ['geometry' => $answer['geometry'] === null ? null : (object) $answer['geometry']] + $answer;
    }

    private function begin(Turn $turn, ?int $place, ?Standing $plane, Window $window): Cutout
    {
        $asset = $turn->item->asset;
        $part = [$window->x, $window->y, $window->width, $window->height, $window->columns, $window->rows];

        return new Cutout($plane === null ? $this->views->colours($asset, $place, ...$part) : $this->views->coloursStanding($asset, $plane, ...$part), $window->box);
    }

    /**
     * What the last request of this hand has left, when this one asks for the same and more.
     *
     * @return ?array{Cutout, int} and how many strokes are in it
     */
    private function begun(string $file, string $at, Wish $wish): ?array
    {
        $kept = is_file($file) ? @unserialize((string) file_get_contents($file), ['allowed_classes' => [Cutout::class, MinCut::class, Mixture::class]]) : null;
        if (! is_array($kept) || ($kept['at'] ?? null) !== $at || ! ($kept['cutout'] ?? null) instanceof Cutout) {
            return null;
        }
        for ($n = count($wish->strokes); $n >= 0; $n--) {
            if ($kept['strokes'] === serialize(array_slice($wish->strokes, 0, $n))) {
                return [$kept['cutout'], $n];
            }
        }

        return null;
    }

    /** @param  array{at: string, strokes: string, cutout: Cutout}  $state */
    private function keep(string $file, array $state): void
    {
        // two requests of one hand may cross; each finds a whole file or none
        $temporary = $file.'.'.bin2hex(random_bytes(4));
        if (@file_put_contents($temporary, serialize($state)) === false || ! @rename($temporary, $file)) {
            @unlink($temporary);
        }
    }
}
