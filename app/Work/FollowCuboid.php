<?php

declare(strict_types=1);

namespace App\Work;

use App\Files\CloudStore;
use App\Models\Item;
use Illuminate\Support\Facades\Cache;
use Skeno\Core\Cloud\Follow;
use Skeno\Core\Cloud\Frame;
use Skeno\Core\Cloud\Motion;
use Skeno\Core\Cloud\Trail;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** Follows a cuboid through the frames of a cloud by its points, a few at a time. Nothing is stored but how the scanner moved, which is asked of every object. */
final class FollowCuboid
{
    /** Frames in one answer: about a second of work where nobody said where the scanner was. */
    public const MOST = 3;

    /** Counts up when how it is told changes. */
    private const AS = 'scene-2';

    /** Seconds that is remembered. */
    private const KEPT = 86_400;

    public function __construct(private readonly CloudStore $clouds)
    {
    }

    /**
     * @param  Fields  $in  as `Trail` is asked
     * @return array{found: list<array{place: int, geometry: array<string, mixed>, certainty: float}>, unsure: ?string}
     *
     * @throws InvalidValue
     */
    public function __invoke(Item $item, Fields $in): array
    {
        $poses = $this->clouds->rig($item->asset->sha256)->poses ?? [];
        $open = [];
        $frame = function (int $n) use ($item, &$open): Frame {
            return $open[$n] ??= $this->clouds->frame($item->asset, $n);
        };
        $scene = static function (int $n) use ($item, $poses, $frame): Motion {
            if (isset($poses[$n], $poses[$n + 1])) {
                return Motion::ofPoses($poses[$n], $poses[$n + 1]);
            }
            $moved = Cache::remember(self::AS."-{$item->asset->sha256}-{$n}", self::KEPT, static function () use ($frame, $n): array {
                $motion = Follow::scene($frame($n), $frame($n + 1));

                return [$motion->turn, $motion->x, $motion->y];
            });

            return new Motion(...$moved);
        };

        return (new Trail($frame, $scene))->asked($in, max(1, $item->places() ?? 1), self::MOST);
    }
}
