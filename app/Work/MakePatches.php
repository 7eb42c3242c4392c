<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\AssetStore;
use App\Files\Views;
use App\Models\Item;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Patches\Patches;

/** The patches of a part of a picture: worked out when they are first asked for, which a bench does before they are needed, and kept. */
final class MakePatches
{
    public function __construct(private readonly Views $views, private readonly AssetStore $assets)
    {
    }

    /**
     * @param  Fields  $in  `{side, x, y, width, height, step, place?, plane?}`: px across a patch and the part, in px of the picture; px of the picture for one of the part as it is looked at
     * @return string a file: `Patches::bytes`, compressed by gzip
     *
     * @throws InvalidValue
     */
    public function __invoke(Item $item, Fields $in): string
    {
        $asset = $item->asset;
        $places = $item->places();
        $plane = $this->views->standing($asset, $in);
        $place = $places === null || $plane !== null ? null : $in->int('place', 0, $places - 1);
        $on = $plane ?? $item->extent()->at($place);
        $step = $in->int('step', 1, 64);
        $side = $in->int('side', 4, 400);
        [$x, $y] = [$in->int('x', 0, $on->width - 1), $in->int('y', 0, $on->height - 1)];
        [$width, $height] = [$in->int('width', 1, $on->width - $x), $in->int('height', 1, $on->height - $y)];
        [$columns, $rows] = [intdiv($width + $step - 1, $step), intdiv($height + $step - 1, $step)];
        if ($columns * $rows > Patches::MOST_PIXELS) {
            throw InvalidValue::at('step', $step, 'a step at which the part has at most '.Patches::MOST_PIXELS.' pixels');
        }
        $name = implode('-', [$plane === null ? $place ?? 'picture' : "{$plane->direction}-{$plane->at}", $x, $y, $width, $height, $step, $side]);

        return $this->assets->made(AssetStore::path($asset->sha256)."-patches/{$name}.gz", function () use ($asset, $place, $plane, $x, $y, $width, $height, $columns, $rows, $side): string {
            $colours = $plane === null ? $this->views->colours($asset, $place, $x, $y, $width, $height, $columns, $rows) : $this->views->coloursStanding($asset, $plane, $x, $y, $width, $height, $columns, $rows);

            return (string) gzencode(Patches::of($colours, $side)->bytes(), 6);
        });
    }
}
