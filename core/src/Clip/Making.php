<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Closure;

/**
 * Makes of a clip what a bench needs, in one decoding: itself as H.264 with a key frame every few frames, the same small, the checksum and
 * time stamp of every frame; then its sound and the outline of that. Files: `full.mp4`, `small.mp4` (of large ones),
 * `sound.m4a`, `wave.bin` (least and most of each 10 ms, a signed byte each), `frames.json` (the FrameTable), `index.json` (for the browser).
 */
final readonly class Making
{
    /** Shorter side of the small copy, which is played fast; there is one of clips with more pixels than LARGE. */
    private const SMALL = 540;

    private const LARGE = 640_000;

    /** Samples a second the outline of the sound is taken from, and how many stand for one step of it. */
    private const WAVE_RATE = 8_000;

    private const WAVE_STEP = 80;

    private Program $program;

    public function __construct(private ClipLimits $limits)
    {
        $this->program = new Program($limits);
    }

    /**
     * @param  string  $folder  empty, where the files are written
     * @param  ?Closure(int): void  $progress  gets how many frames are done, now and then; may throw to stop
     *
     * @throws RefusedClip
     */
    public function make(Clip $clip, string $folder, ?Closure $progress = null): Made
    {
        // the size of the decoded picture is known only when it has been turned upright and its pixels made square
        $square = 'scale=w=round(iw*sar):h=ih:out_color_matrix=bt709:out_range=tv,setsar=1';
        $h264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20', '-pix_fmt', 'yuv420p', '-g', (string) Rendition::GROUP, '-keyint_min', (string) Rendition::GROUP, '-sc_threshold', '0', '-bf', '0', '-threads', '2', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-map_metadata', '-1', '-movflags', '+faststart', '-an'];
        $each = ['-map', '0:v:0', '-fps_mode', 'passthrough'];
        $coded = [...$each, '-enc_time_base', '1:'.FrameTable::TICKS, '-video_track_timescale', (string) FrameTable::TICKS, '-vf'];
        $start = sprintf('%.6F', $clip->start);
        $times = 'settb=1/'.FrameTable::TICKS.",setpts='if(isnan(PREV_OUTPTS),PTS-({$start})/TB,max(PTS-({$start})/TB,PREV_OUTPTS+1))'";
        $side = self::SMALL;
        $isLarge = $clip->pixels > self::LARGE;
        $complaint = $this->program->ffmpeg([
            '-copyts', '-nostats', '-progress', 'pipe:1', ...Program::input($clip->file, $clip->format->demuxer()),
            // an odd row or column is doubled, since the codec wants even sizes; nobody is shown it
            ...$coded, "{$times},{$square},pad=w=ceil(iw/2)*2:h=ceil(ih/2)*2", ...$h264, "{$folder}/full.mp4",
            ...($isLarge ? [...$coded, "{$times},{$square},scale=w='if(gt(iw,ih),-2,{$side})':h='if(gt(iw,ih),{$side},-2)'", ...$h264, "{$folder}/small.mp4"] : []),
            ...$each, '-vf', 'scale=w=round(iw*sar):h=ih,setsar=1', '-enc_time_base', '-1', '-f', 'framecrc', "{$folder}/decoded.crc",
        ], $this->told($progress));
        $table = $this->table($clip, $folder, $complaint);
        [$full, $ticks] = Rendition::of("{$folder}/full.mp4", $this->program);
        [$small, $same] = $isLarge ? Rendition::of("{$folder}/small.mp4", $this->program) : [null, $ticks];
        if ($ticks !== $same) {
            throw RefusedClip::because('what was made of it in two sizes does not agree');
        }
        $frames = FrameTable::of($ticks, $table['width'], $table['height'], $table['fingerprint']);
        if ($frames->count() !== $table['count']) {
            throw RefusedClip::because("{$table['count']} frames were decoded and {$frames->count()} written");
        }
        $sound = $clip->sound ? $this->sound($clip, $folder) : false;
        file_put_contents("{$folder}/frames.json", json_encode($frames->toArray() + ['stamps' => $table['stamps'], 'time_base' => $table['time_base']], JSON_THROW_ON_ERROR));
        file_put_contents("{$folder}/index.json", json_encode([
            'width' => $frames->width, 'height' => $frames->height, 'ticks' => FrameTable::TICKS, 'times' => $frames->times, 'end' => $frames->end, 'group' => Rendition::GROUP,
            'full' => $full->toArray(), 'small' => $small?->toArray(), 'sound' => $sound === true,
        ], JSON_THROW_ON_ERROR));

        return new Made($frames, $sound === true, is_string($sound) ? $sound : '');
    }

    /**
     * @param  ?Closure(int): void  $progress
     * @return Closure(string): void
     */
    private function told(?Closure $progress): Closure
    {
        $rest = '';

        return function (string $said) use (&$rest, $progress): void {
            $lines = explode("\n", $rest.$said);
            $rest = array_pop($lines);
            foreach ($lines as $line) {
                if (preg_match('/^frame=\s*(\d+)/', $line, $m) === 1) {
                    if ((int) $m[1] > $this->limits->maxFrames) {
                        throw RefusedClip::because('more than '.number_format($this->limits->maxFrames).' frames');
                    }
                    if ($progress !== null) {
                        $progress((int) $m[1]);
                    }
                }
            }
        };
    }

    /**
     * Reads what the decoding said of each frame, and whether all of them came.
     *
     * @return array{width: int, height: int, count: int, stamps: list<int>, time_base: string, fingerprint: string}
     */
    private function table(Clip $clip, string $folder, string $complaint): array
    {
        $width = $height = 0;
        $base = '';
        $stamps = [];
        $hash = hash_init('sha256');
        $file = fopen("{$folder}/decoded.crc", 'r');
        while ($file !== false && ($line = fgets($file)) !== false) {
            if (preg_match('/^#(tb|dimensions) 0: (\d+)[\/x](\d+)/', $line, $m) === 1) {
                $m[1] === 'tb' ? $base = "{$m[2]}/{$m[3]}" : [$width, $height] = [(int) $m[2], (int) $m[3]];
            } elseif ($line[0] !== '#') {
                $fields = array_map(trim(...), explode(',', $line));
                $stamps[] = (int) ($fields[2] ?? 0);
                hash_update($hash, ($fields[2] ?? '').' '.($fields[5] ?? '')."\n");
            }
        }
        if ($file !== false) {
            fclose($file);
        }
        unlink("{$folder}/decoded.crc");
        if ($stamps === [] || $width < 1 || $height < 1) {
            throw RefusedClip::because('none of its pictures could be decoded');
        }
        [$over, $under] = array_map(intval(...), explode('/', $base));
        $shown = (max($stamps) - min($stamps)) * $over / max(1, $under);
        $whole = $clip->seconds;
        if (preg_match('/partial file|File ended prematurely|Truncat/i', $complaint) === 1 || ($whole > 0 && $shown < $whole - max(1.0, 0.02 * $whole))) {
            throw RefusedClip::because(sprintf('it is cut off: %.1f of its %.1f s could be decoded', $shown, $whole));
        }

        return ['width' => $width, 'height' => $height, 'count' => count($stamps), 'stamps' => $stamps, 'time_base' => $base, 'fingerprint' => hash_final($hash)];
    }

    /** @return true|string why its sound can't be decoded: then it is a clip without */
    private function sound(Clip $clip, string $folder): true|string
    {
        $input = Program::input($clip->file, $clip->format->demuxer());
        $resampled = static fn (int $rate): string => "aresample={$rate}:async=1000:first_pts=0";
        try {
            $this->program->ffmpeg([...$input, '-map', '0:a:0', '-vn', '-af', $resampled(48_000), '-ac', '2', '-c:a', 'aac', '-b:a', '128k', '-map_metadata', '-1', '-movflags', '+faststart', "{$folder}/sound.m4a"]);
            $wave = fopen("{$folder}/wave.bin", 'w');
            $rest = '';
            $this->program->ffmpeg([...$input, '-map', '0:a:0', '-vn', '-af', $resampled(self::WAVE_RATE), '-ac', '1', '-f', 's16le', 'pipe:1'], static function (string $samples) use (&$rest, $wave): void {
                $rest .= $samples;
                $bytes = 2 * self::WAVE_STEP;
                $steps = intdiv(strlen($rest), $bytes);
                for ($i = 0; $i < $steps; $i++) {
                    /** @var non-empty-array<int, int> $values */
                    $values = unpack('s*', substr($rest, $i * $bytes, $bytes));
                    fwrite($wave ?: STDERR, pack('cc', min($values) >> 8, max($values) >> 8));
                }
                $rest = substr($rest, $steps * $bytes);
            });
            if ($wave !== false) {
                fclose($wave);
            }
        } catch (RefusedClip $e) {
            @unlink("{$folder}/sound.m4a");
            @unlink("{$folder}/wave.bin");

            return "taken without its sound: {$e->getMessage()}";
        }

        return true;
    }
}
