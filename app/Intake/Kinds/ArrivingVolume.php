<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\VolumeStore;
use App\Models\Asset;
use Closure;
use Skeno\Core\Volume\Laid;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Volume\Source;

/** A volume on its way in: it is whole when its planes have been made. */
final class ArrivingVolume implements Arrival
{
    /** Seconds from one word of progress to the next. */
    private const EVERY = 0.8;

    public function __construct(
        private readonly string $file,
        private readonly string $format,
        private readonly Source $source,
        private readonly Scan $scan,
        private readonly AssetStore $assets,
        private readonly VolumeStore $volumes,
    ) {
    }

    public function hash(string $file): string
    {
        return (string) hash_file('sha256', $file);
    }

    public function keep(string $hash, Closure $progress): string
    {
        $last = 0.0;
        $this->volumes->make($this->source, $hash, static function (int $done, int $all) use ($progress, &$last): void {
            if (microtime(true) - $last >= self::EVERY) {
                $last = microtime(true);
                $progress(round(100 * $done / max(1, $all)).' % of its planes');
            }
        });
        $this->assets->keep($this->file, $hash);
        $laid = $this->scan->laid;

        return implode(' × ', $laid->sizes).' voxels'.($this->scan->grid->isOriented ? '' : '; how it lies in a body is not said');
    }

    public function asset(): array
    {
        $laid = Laid::of($this->scan->grid);

        return [
            'kind' => 'volume', 'bytes' => (int) filesize($this->file), 'format' => $this->format, 'width' => $laid->sizes[0], 'height' => $laid->sizes[1], 'orientation' => 1, 'depth' => 16, 'color_space' => 'gray',
            'facts' => ['slices' => $laid->sizes[2], 'spacing' => $laid->spacing, 'letters' => $laid->letters, 'scan' => $this->scan->toArray()],
        ];
    }

    public function written(Asset $asset): void
    {
    }
}
