<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Closure;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\InvalidValue;
use Skeno\Core\Quality\FarthestFirst;
use Skeno\Core\Quality\Looks;

/**
 * The frames of a clip that differ most from each other, by what they look like as a whole. Frames that follow each other hardly differ, so of a long
 * clip as many are compared as can be, evenly spread, and the rest is left out.
 */
final readonly class MostDifferent
{
    /** Frames that are compared at most; what is drawn costs this times what is asked for. */
    public const COMPARED = 2_000;

    public function __construct(private Frames $frames)
    {
    }

    /** How many frames will come when so many are asked for. */
    public static function count(int $wanted, int $places): int
    {
        return min($wanted, intdiv($places - 1, self::every($places)) + 1);
    }

    /**
     * @param  string  $made  a file that was made for the screen
     * @param  int  $places  how many frames the clip has, from 1
     * @param  int  $wanted  how many are asked for, from 1
     * @param  ?Closure(int): void  $looked  told the frame that was looked at; may throw to stop
     * @return list<int> in order; fewer than are asked for when there are not so many to compare
     *
     * @throws InvalidValue when fewer than one are asked for
     * @throws RefusedClip when they could not be decoded
     */
    public function of(string $made, int $places, int $wanted, ?Closure $looked = null): array
    {
        $looks = [];
        $this->frames->swatches($made, self::every($places), static function (Swatch $swatch, int $frame) use (&$looks, $places, $looked): void {
            if ($frame < $places) {
                $looks[$frame] = Looks::ofPicture($swatch);
                if ($looked !== null) {
                    $looked($frame);
                }
            }
        });
        $frames = FarthestFirst::over($looks === [] ? throw RefusedClip::because('none of its frames could be decoded') : $looks)->draw($wanted);
        sort($frames);

        return $frames;
    }

    private static function every(int $places): int
    {
        return max(1, intdiv($places + self::COMPARED - 1, self::COMPARED));
    }
}
