<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Clip;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Clip\Frames;
use Skeno\Core\Clip\MostDifferent;
use Skeno\Core\InvalidValue;

/** Frames that differ, out of clips in which it is known which do. */
final class MostDifferentTest extends TestCase
{
    private string $file;

    protected function setUp(): void
    {
        $this->file = sys_get_temp_dir().'/skeno-different-'.bin2hex(random_bytes(6)).'.mp4';
    }

    protected function tearDown(): void
    {
        @unlink($this->file);
    }

    /** @param  list<array{string, int}>  $scenes  a source of ffmpeg and how many frames of it, one after the other */
    private function write(array $scenes): void
    {
        $in = $cut = [];
        foreach ($scenes as $i => [$source, $frames]) {
            array_push($in, '-f', 'lavfi', '-i', $source.(str_contains($source, '=') ? ':' : '=').'size=96x96:rate=25');
            $cut[] = "[{$i}]trim=end_frame={$frames},setsar=1,format=yuv420p[s{$i}]";
        }
        $all = implode('', array_map(static fn (int $i): string => "[s{$i}]", array_keys($scenes)));
        $all .= count($scenes) > 1 ? 'concat=n='.count($scenes) : 'null';
        NumberedClip::run(['ffmpeg', '-nostdin', '-y', '-v', 'error', ...$in, '-filter_complex', implode(';', $cut).";{$all}", '-c:v', 'libx264', '-preset', 'ultrafast', '-qp', '4', $this->file]);
    }

    public function test_of_scenes_that_stand_still_one_frame_each_is_drawn_before_any_second(): void
    {
        // 30, 5, 40 and 25 frames: a choice by number would take three of them from the long ones
        $this->write([['color=c=red', 30], ['color=c=blue', 5], ['testsrc2', 1], ['color=c=white', 39], ['color=c=black', 25]]);
        $frames = (new MostDifferent(new Frames(new ClipLimits)))->of($this->file, 100, 5);
        self::assertCount(5, $frames);
        $scene = static fn (int $frame): int => match (true) {
            $frame < 30 => 0, $frame < 35 => 1, $frame < 36 => 2, $frame < 75 => 3, default => 4
        };
        self::assertSame([0, 1, 2, 3, 4], array_map($scene, $frames));
        self::assertContains(35, $frames);
    }

    public function test_as_many_come_as_there_are_and_never_one_twice(): void
    {
        $this->write([['testsrc2', 12]]);
        $different = new MostDifferent(new Frames(new ClipLimits));
        self::assertSame(range(0, 11), $different->of($this->file, 12, 500));
        self::assertSame([12, 3, 1], [MostDifferent::count(500, 12), MostDifferent::count(3, 12), MostDifferent::count(1, 1)]);
        self::assertSame($different->of($this->file, 12, 4), $different->of($this->file, 12, 4), 'tried again it takes the same ones');
        $this->expectException(InvalidValue::class);
        $different->of($this->file, 12, 0);
    }

    public function test_a_long_one_is_looked_at_evenly(): void
    {
        $this->write([['testsrc2', MostDifferent::COMPARED + 1]]);
        $seen = [];
        $frames = (new MostDifferent(new Frames(new ClipLimits)))->of($this->file, MostDifferent::COMPARED + 1, 3, static function (int $frame) use (&$seen): void {
            $seen[] = $frame;
        });
        self::assertSame(range(0, MostDifferent::COMPARED, 2), $seen);
        self::assertSame(intdiv(MostDifferent::COMPARED, 2) + 1, MostDifferent::count(MostDifferent::COMPARED, MostDifferent::COMPARED + 1));
        self::assertSame([0, 0, 0], array_map(static fn (int $frame): int => $frame % 2, $frames));
    }
}
