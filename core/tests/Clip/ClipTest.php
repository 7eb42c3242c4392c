<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Clip;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Clip\Clip;
use Skeno\Core\Clip\ClipFormat;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Clip\Frames;
use Skeno\Core\Clip\FrameTable;
use Skeno\Core\Clip\Making;
use Skeno\Core\Clip\RefusedClip;
use Skeno\Core\InvalidValue;

final class ClipTest extends TestCase
{
    private string $folder;

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/skeno-clip-'.bin2hex(random_bytes(6));
        mkdir("{$this->folder}/made", 0o770, true);
        mkdir("{$this->folder}/frames");
    }

    protected function tearDown(): void
    {
        exec('rm -r '.escapeshellarg($this->folder));
    }

    /** @return iterable<string, array{0: string, 1: list<string>, 2?: list<string>, 3?: int, 4?: int}> file name, how it is written, what comes before its input, frames, degrees it has to be turned back */
    public static function containers(): iterable
    {
        $x264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p'];
        yield 'MP4 with frames that look ahead' => ['a.mp4', [...$x264, '-bf', '3', '-g', '30']];
        yield 'MP4 with a rate of 30000/1001' => ['b.mp4', [...$x264, '-bf', '2'], ['-framerate', '30000/1001']];
        yield 'MOV, turned by its flag' => ['c.mov', $x264, ['-framerate', '25'], 40, -90];
        yield 'WebM' => ['d.webm', ['-c:v', 'libvpx', '-b:v', '1M', '-deadline', 'realtime']];
        yield 'AVI with frames that look ahead' => ['e.avi', ['-c:v', 'mpeg4', '-q:v', '3', '-bf', '2']];
        yield 'MKV at a variable rate' => ['f.mkv', [...$x264, '-bf', '2', '-vf', "setpts='(N+4*floor(N/10))/25/TB'", '-fps_mode', 'vfr']];
        yield 'MP4 that starts late' => ['g.mp4', [...$x264, '-bf', '2', '-output_ts_offset', '3.7']];
    }

    /**
     * @param  list<string>  $out
     * @param  list<string>  $in
     */
    #[DataProvider('containers')]
    public function test_frame_k_is_the_same_picture_everywhere(string $name, array $out, array $in = ['-framerate', '25'], int $frames = 40, int $turned = 0): void
    {
        $file = "{$this->folder}/{$name}";
        NumberedClip::write($file, $frames, $out, sound: $name !== 'f.mkv', in: $in);
        if ($turned !== 0) {
            // the flag is only written where the pictures are left as they are
            rename($file, "{$this->folder}/upright.mov");
            NumberedClip::run(['ffmpeg', '-nostdin', '-v', 'error', '-i', "{$this->folder}/upright.mov", '-c', 'copy', '-metadata:s:v:0', 'rotate=90', $file]);
        }
        // what is the k-th frame is said by nothing but decoding all of them
        NumberedClip::run(['ffmpeg', '-nostdin', '-v', 'error', '-i', $file, '-map', '0:v:0', '-fps_mode', 'passthrough', '-start_number', '0', "{$this->folder}/%d.png"]);
        $told = [];
        for ($k = 0; is_file("{$this->folder}/{$k}.png"); $k++) {
            $told[] = NumberedClip::read("{$this->folder}/{$k}.png", $turned);
        }
        self::assertGreaterThan(20, count($told));
        self::assertNotContains(-1, $told);

        $limits = new ClipLimits;
        $clip = Clip::open($file, $name, $limits);
        $steps = [];
        $made = (new Making($limits))->make($clip, "{$this->folder}/made", static function (int $n) use (&$steps): void {
            $steps[] = $n;
        });
        self::assertSame(count($told), $made->frames->count());
        self::assertSame($turned === 0 ? [NumberedClip::WIDTH, NumberedClip::HEIGHT] : [NumberedClip::HEIGHT, NumberedClip::WIDTH], [$made->frames->width, $made->frames->height]);
        self::assertSame(count($told), max($steps));
        self::assertSame($name !== 'f.mkv', $made->sound);
        self::assertSame($name === 'f.mkv', $made->frames->isVariable(), 'rate');

        // every frame of what is played, in order
        NumberedClip::run(['ffmpeg', '-nostdin', '-v', 'error', '-i', "{$this->folder}/made/full.mp4", '-fps_mode', 'passthrough', '-start_number', '0', "{$this->folder}/made/%d.png"]);
        self::assertSame($told, array_map(fn (int $k): int => NumberedClip::read("{$this->folder}/made/{$k}.png", $turned), range(0, count($told) - 1)));

        // single ones: out of the original, and quickly out of what was made
        $wanted = [0, 1, 11, 12, 13, 23, count($told) - 1];
        $reader = new Frames($limits);
        foreach ($reader->write($file, $clip->format, $wanted, $made->frames->count(), $made->frames->width, $made->frames->height, "{$this->folder}/frames") as $k => $png) {
            self::assertSame($told[$k], NumberedClip::read($png, $turned), "exact frame {$k}");
            self::assertStringEndsWith(sprintf('/%06d.png', $k), $png);
        }
        foreach ($wanted as $k) {
            $reader->quick("{$this->folder}/made/full.mp4", $made->frames, $k, "{$this->folder}/quick.jpg");
            self::assertSame($told[$k], NumberedClip::read("{$this->folder}/quick.jpg", $turned), "quick frame {$k}");
        }
        // the index leads to every sample: a group cut out of the file by it is decoded alone
        $index = json_decode((string) file_get_contents("{$this->folder}/made/index.json"), true);
        self::assertIsArray($index);
        self::assertSame(array_sum($index['full']['sizes']), filesize("{$this->folder}/made/full.mp4") - $index['full']['offset']);
        self::assertSame($made->frames->times, $index['times']);
        // a second making of it gives the same
        mkdir("{$this->folder}/again");
        self::assertEquals($made->frames, (new Making($limits))->make($clip, "{$this->folder}/again")->frames);
        self::assertEquals($made->frames, FrameTable::fromArray(json_decode((string) file_get_contents("{$this->folder}/made/frames.json"), true)));
    }

    public function test_a_large_one_has_a_small_copy_and_an_odd_one_keeps_its_size(): void
    {
        NumberedClip::run(['ffmpeg', '-nostdin', '-v', 'error', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-video_size', '1281x721', '-framerate', '10', '-i', '/dev/zero', '-frames:v', '20', '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv444p', "{$this->folder}/a.mp4"]);
        $limits = new ClipLimits;
        $made = (new Making($limits))->make(Clip::open("{$this->folder}/a.mp4", 'a.mp4', $limits), "{$this->folder}/made");
        $index = json_decode((string) file_get_contents("{$this->folder}/made/index.json"), true);
        self::assertSame([1281, 721], [$made->frames->width, $made->frames->height]);
        self::assertSame([1282, 722, 960, 540], [$index['full']['width'], $index['full']['height'], $index['small']['width'], $index['small']['height']]);
        self::assertCount(20, $index['small']['sizes']);
    }

    /** @return iterable<string, array{string, string}> how a file is made, and what is said of it */
    public static function refused(): iterable
    {
        yield 'cut off before its index' => ['cut', '/cut off or broken/'];
        yield 'cut off in the middle' => ['half', '/cut off/'];
        yield 'sound only' => ['sound', '/sound only/'];
        yield 'a text' => ['text', '/do not/'];
        yield 'a list of other files in its guise' => ['list', '/do not/'];
        yield 'empty' => ['empty', '/empty/'];
        yield 'noise after a right beginning' => ['noise', '/broken|cut off/'];
    }

    #[DataProvider('refused')]
    public function test_what_is_no_clip_is_refused_by_its_reason(string $what, string $reason): void
    {
        $good = "{$this->folder}/good.mp4";
        $file = "{$this->folder}/bad.mp4";
        $faststart = $what === 'half' ? ['-movflags', '+faststart'] : [];
        NumberedClip::write($good, 100, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', ...$faststart], sound: true);
        $bytes = (string) file_get_contents($good);
        match ($what) {
            'cut', 'half' => file_put_contents($file, substr($bytes, 0, intdiv(strlen($bytes), 2))),
            'sound' => NumberedClip::run(['ffmpeg', '-nostdin', '-v', 'error', '-i', $good, '-vn', '-c', 'copy', $file]),
            'text' => file_put_contents($file, 'this is no clip'),
            'list' => file_put_contents($file, "#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\nfile:///etc/passwd\n"),
            'empty' => file_put_contents($file, ''),
            default => file_put_contents($file, substr($bytes, 0, 40).str_repeat('skeno', 4000)),
        };
        $this->expectException(RefusedClip::class);
        $this->expectExceptionMessageMatches($reason);
        $limits = new ClipLimits;
        (new Making($limits))->make(Clip::open($file, 'bad.mp4', $limits), "{$this->folder}/made");
    }

    public function test_what_is_too_much_is_refused_by_its_reason(): void
    {
        $file = "{$this->folder}/a.mp4";
        NumberedClip::write($file, 60, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']);
        $tries = [
            '/frames of 320 × 180 px/' => new ClipLimits(maxPixels: 1000),
            '/GB/' => new ClipLimits(maxBytes: 1000),
            '/hours/' => new ClipLimits(maxSeconds: 1),
            '/60 frames; clips may have up to 50/' => new ClipLimits(maxFrames: 50),
            '/memory|can not be|broke down/' => new ClipLimits(memory: 60_000_000),
        ];
        foreach ($tries as $reason => $limits) {
            try {
                (new Making($limits))->make(Clip::open($file, 'a.mp4', $limits), "{$this->folder}/made");
                self::fail("not refused: {$reason}");
            } catch (RefusedClip $e) {
                self::assertMatchesRegularExpression($reason, $e->getMessage());
            }
        }
        // a container may keep quiet about how many frames it has
        NumberedClip::write("{$this->folder}/a.mkv", 60, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']);
        $limits = new ClipLimits(maxFrames: 50);
        $this->expectExceptionMessage('more than 50 frames');
        (new Making($limits))->make(Clip::open("{$this->folder}/a.mkv", 'a.mkv', $limits), "{$this->folder}/made");
    }

    public function test_making_can_be_stopped(): void
    {
        $file = "{$this->folder}/a.mp4";
        NumberedClip::write($file, 60, ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']);
        $limits = new ClipLimits;
        $this->expectExceptionMessage('enough');
        (new Making($limits))->make(Clip::open($file, 'a.mp4', $limits), "{$this->folder}/made", static fn () => throw new \RuntimeException('enough'));
    }

    public function test_a_frame_is_found_by_its_time(): void
    {
        $table = FrameTable::of([900, 4500, 8100, 20_000], 10, 10, str_repeat('0', 64));
        foreach ([[0.0, 0], [0.01, 0], [0.0499, 0], [0.05, 1], [0.0899, 1], [0.09, 2], [0.2, 2], [0.2223, 3], [99.0, 3]] as [$seconds, $frame]) {
            self::assertSame($frame, $table->at($seconds), "at {$seconds} s");
        }
        foreach ($table->times as $k => $time) {
            self::assertSame($k, $table->at($table->seconds($k)));
        }
        self::assertTrue($table->isVariable());
        self::assertFalse(FrameTable::of([0, 3003, 6006, 9009], 10, 10, '')->isVariable());
        self::assertEqualsWithDelta(29.97, FrameTable::of([0, 3003, 6006, 9009], 10, 10, '')->rate(), 0.001);
        foreach ([[], [5, 5], [5, 4]] as $times) {
            try {
                FrameTable::of($times, 10, 10, '');
                self::fail('times in no order');
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
    }

    public function test_containers_are_told_by_their_bytes(): void
    {
        self::assertSame(ClipFormat::Mov, ClipFormat::sniff("\0\0\0\x14ftypqt  \0\0\0\0"));
        self::assertSame(ClipFormat::Mp4, ClipFormat::sniff("\0\0\0\x20ftypisom\0\0\0\0"));
        self::assertSame(ClipFormat::Webm, ClipFormat::sniff("\x1A\x45\xDF\xA3\x9F\x42\x86\x81\x01\x42\x82\x84webm"));
        self::assertSame(ClipFormat::Mkv, ClipFormat::sniff("\x1A\x45\xDF\xA3\x9F\x42\x82\x88matroska"));
        self::assertSame(ClipFormat::Avi, ClipFormat::sniff("RIFF\0\0\0\0AVI LIST"));
        self::assertNull(ClipFormat::sniff("RIFF\0\0\0\0WAVEfmt "));
        self::assertSame(ClipFormat::Mp4, ClipFormat::ofName('set/A.M4V'));
        self::assertNull(ClipFormat::ofName('a.jpg'));
    }
}
