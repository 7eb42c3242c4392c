<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\CloudStore;
use App\Models\Asset;
use Closure;
use RuntimeException;
use Skeno\Core\Cloud\Made;
use Skeno\Core\Cloud\Rig;

/** A cloud on its way in: it is whole when its points have been laid out for the bench. */
final class ArrivingCloud implements Arrival
{
    private ?Made $made = null;

    private ?Rig $rig = null;

    public function __construct(private readonly string $file, private readonly string $format, private readonly AssetStore $assets, private readonly CloudStore $clouds)
    {
    }

    public function hash(string $file): string
    {
        return (string) hash_file('sha256', $file);
    }

    public function keep(string $hash, Closure $progress): string
    {
        $this->made = $this->clouds->make($this->file, "cloud.{$this->format}", $hash, static function (int $done, int $all) use ($progress): void {
            $progress(round(100 * $done / max(1, $all)).' % of its points');
        }) ?? $this->clouds->made($hash);
        $this->assets->keep($this->file, $hash);
        $this->rig = $this->clouds->rig($hash);
        $frames = count($this->made->points);
        $points = number_format(array_sum($this->made->points)).' points';

        $cameras = count($this->rig->cameras ?? []);

        return implode(', ', array_filter([$frames === 1 ? '' : "{$frames} frames", $points, $cameras === 0 ? '' : ($cameras === 1 ? 'a camera' : "{$cameras} cameras")]));
    }

    public function asset(): array
    {
        $made = $this->made ?? throw new RuntimeException('a cloud is told of before it was made');

        return [
            'kind' => 'cloud', 'bytes' => (int) filesize($this->file), 'format' => $this->format, 'width' => 0, 'height' => 0, 'orientation' => 1, 'depth' => 32, 'color_space' => 'none',
            'facts' => ['frames' => count($made->points), 'points' => $made->points, 'least' => $made->least, 'most' => $made->most] + ($this->rig === null ? [] : ['rig' => $this->rig->facts()]),
        ];
    }

    public function written(Asset $asset): void
    {
    }
}
