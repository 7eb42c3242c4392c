<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\ClipStore;
use App\Models\Asset;
use Closure;
use Skeno\Core\Clip\Clip;
use Skeno\Core\Clip\FrameTable;

/** A clip on its way in: it is whole when all its frames have been decoded. */
final class ArrivingClip implements Arrival
{
    /** Seconds from one word of progress to the next. */
    private const EVERY = 0.8;

    private ?FrameTable $frames = null;

    private bool $sound = false;

    public function __construct(private readonly Clip $clip, private readonly AssetStore $assets, private readonly ClipStore $clips)
    {
    }

    public function hash(string $file): string
    {
        return (string) hash_file('sha256', $file);
    }

    public function keep(string $hash, Closure $progress): string
    {
        $all = $this->clip->estimate();
        $last = 0.0;
        $note = $this->clips->make($this->clip, $hash, static function (int $done) use ($progress, $all, &$last): void {
            if (microtime(true) - $last >= self::EVERY) {
                $last = microtime(true);
                $progress('frame '.number_format($done).($all > 0 ? ' of about '.number_format($all) : ''));
            }
        });
        $this->assets->keep($this->clip->file, $hash);
        [$this->frames, $this->sound] = $this->clips->read($hash);

        return $note;
    }

    public function asset(): array
    {
        $frames = $this->frames ?? throw new \LogicException('a clip is kept before its row is written');

        return [
            'kind' => 'clip', 'bytes' => $this->clip->bytes, 'format' => $this->clip->format->value, 'width' => $frames->width, 'height' => $frames->height, 'orientation' => 1, 'depth' => 8, 'color_space' => 'rgb',
            'facts' => [
                'frames' => $frames->count(), 'rate' => round($frames->rate(), 4), 'duration' => round($frames->duration(), 4), 'variable' => $frames->isVariable(),
                'sound' => $this->sound, 'codec' => $this->clip->codec, 'fingerprint' => $frames->fingerprint,
            ],
        ];
    }

    public function written(Asset $asset): void
    {
    }
}
