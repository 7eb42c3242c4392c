<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

/** A file told to be a clip, as its container describes it before a frame is decoded. */
final readonly class Clip
{
    /**
     * @param  int  $pixels  of a frame
     * @param  float  $start  of the container in seconds: the origin of all times
     * @param  float  $seconds  the pictures last, as the container says; 0 when it does not
     * @param  float  $rate  frames a second on average, as the container says; 0 when it does not
     * @param  bool  $sound  whether it has a sound track
     */
    private function __construct(public string $file, public ClipFormat $format, public int $bytes, public string $codec, public int $pixels, public float $start, public float $seconds, public float $rate, public bool $sound)
    {
    }

    /**
     * Tells what a file is, without decoding it.
     *
     * @throws RefusedClip
     */
    public static function open(string $file, string $name, ClipLimits $limits): self
    {
        $bytes = (int) @filesize($file);
        if ($bytes === 0) {
            throw RefusedClip::because('the file is empty');
        }
        if ($bytes > $limits->maxBytes) {
            throw RefusedClip::because(sprintf('%.1f GB; clips may have up to %.1f GB', $bytes / 1e9, $limits->maxBytes / 1e9));
        }
        $format = ClipFormat::sniff((string) file_get_contents($file, false, null, 0, 64));
        if ($format === null) {
            throw RefusedClip::because(ClipFormat::ofName($name) === null ? 'not a clip: its bytes are of no known container' : 'its name says clip, its bytes do not');
        }
        $said = (new Program($limits))->probe(['-show_entries', 'format=start_time,duration:stream=index,codec_type,codec_name,width,height,avg_frame_rate,duration,nb_frames:stream_tags=DURATION:stream_disposition=attached_pic', ...Program::input($file, $format->demuxer())]);
        $container = is_array($said['format'] ?? null) ? $said['format'] : [];
        $streams = is_array($said['streams'] ?? null) ? $said['streams'] : [];
        $video = $sound = null;
        foreach ($streams as $stream) {
            if (! is_array($stream)) {
                continue;
            }
            // the cover of a song is a picture, not a clip
            if (($stream['codec_type'] ?? '') === 'video' && (! is_array($stream['disposition'] ?? null) || ($stream['disposition']['attached_pic'] ?? 0) === 0)) {
                $video ??= $stream;
            }
            $sound ??= ($stream['codec_type'] ?? '') === 'audio' ? $stream : null;
        }
        if ($video === null) {
            throw RefusedClip::because($sound === null ? 'it has no pictures' : 'it has sound only, no pictures');
        }
        [$width, $height] = [self::number($video['width'] ?? 0), self::number($video['height'] ?? 0)];
        if ($width < 1 || $height < 1) {
            throw RefusedClip::because('its pictures have no size');
        }
        if ($width * $height > $limits->maxPixels) {
            throw RefusedClip::because(sprintf('frames of %d × %d px; clips may have up to %d megapixels', $width, $height, intdiv($limits->maxPixels, 1_000_000)));
        }
        $seconds = self::number($video['duration'] ?? 0) ?: self::clock($video['tags'] ?? null) ?: self::number($container['duration'] ?? 0);
        if ($seconds > $limits->maxSeconds) {
            throw RefusedClip::because(sprintf('%.1f hours; clips may last up to %.1f', $seconds / 3600, $limits->maxSeconds / 3600));
        }
        $frames = (int) self::number($video['nb_frames'] ?? 0);
        if ($frames > $limits->maxFrames) {
            throw RefusedClip::because(sprintf('%s frames; clips may have up to %s', number_format($frames), number_format($limits->maxFrames)));
        }

        return new self($file, $format, $bytes, is_string($video['codec_name'] ?? null) ? $video['codec_name'] : 'unknown', (int) ($width * $height), self::number($container['start_time'] ?? 0), $seconds, self::ratio($video['avg_frame_rate'] ?? ''), $sound !== null);
    }

    /** How many frames it seems to have; for a bar of progress. */
    public function estimate(): int
    {
        return (int) round($this->seconds * $this->rate);
    }

    private static function number(mixed $said): float
    {
        return is_numeric($said) && is_finite((float) $said) ? (float) $said : 0.0;
    }

    private static function ratio(mixed $said): float
    {
        [$over, $under] = [...explode('/', is_string($said) ? $said : ''), '0', '0'];

        return self::number($under) > 0 ? self::number($over) / self::number($under) : 0.0;
    }

    /** `00:00:10.041000000`, as Matroska keeps how long a stream lasts. */
    private static function clock(mixed $tags): float
    {
        $said = is_array($tags) ? ($tags['DURATION'] ?? '') : '';

        return is_string($said) && preg_match('/^(\d+):(\d+):(\d+(?:\.\d+)?)$/D', $said, $m) === 1 ? (int) $m[1] * 3600 + (int) $m[2] * 60 + (float) $m[3] : 0.0;
    }
}
