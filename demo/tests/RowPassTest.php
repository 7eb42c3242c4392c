<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Clip\Clip;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Clip\Making;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Demo\CanopyWalk;
use Skeno\Demo\Chance;
use Skeno\Demo\RowPass;

final class RowPassTest extends TestCase
{
    public function test_a_clip_has_its_frames_its_sound_and_the_truth_about_both(): void
    {
        $folder = sys_get_temp_dir().'/skeno-row-'.bin2hex(random_bytes(6));
        mkdir("{$folder}/made", 0o770, true);
        try {
            $truth = (new RowPass(new Chance('row/7'), 24))->write("{$folder}/row.mp4");
            $limits = new ClipLimits;
            $made = (new Making($limits))->make(Clip::open("{$folder}/row.mp4", 'row.mp4', $limits), "{$folder}/made");
            self::assertSame([24, RowPass::WIDTH, RowPass::HEIGHT, true], [$made->frames->count(), $made->frames->width, $made->frames->height, $made->sound]);
            $tracks = $truth['tracks'];
            self::assertIsArray($tracks);
            $bins = array_values(array_filter($tracks, static fn (array $track): bool => $track['class'] === 'bin'));
            self::assertGreaterThan(2, count($bins));
            foreach ($bins as $bin) {
                // what one comes nearer to grows, until it goes by
                $widths = array_map(static fn (array $box): float => $box[0] > 0 && $box[0] + $box[2] < RowPass::WIDTH ? $box[2] : 0.0, $bin['frames']);
                self::assertGreaterThanOrEqual(min(array_filter($widths) ?: [0]), end($widths) ?: max($widths));
                foreach ($bin['frames'] as [$x, $y, $width, $height]) {
                    self::assertTrue($x >= 0 && $y >= 0 && $x + $width <= RowPass::WIDTH + 0.01 && $y + $height <= RowPass::HEIGHT + 0.01);
                }
            }
        } finally {
            exec('rm -r '.escapeshellarg($folder));
        }
    }

    public function test_the_work_on_it_is_what_the_codebook_asks_for(): void
    {
        $codebook = Codebook::fromJson((string) file_get_contents(CanopyWalk::file('row-pass.json')));
        $box = static fn (int $frame): array => [100 + $frame, 200, 60 + $frame / 2, 40 + $frame / 3];
        $frames = array_combine(range(5, 200), array_map($box, range(5, 200)));
        $truth = ['frames' => 240, 'gust' => [60, 150], 'blocked' => [170, 200], 'tracks' => [['class' => 'bin', 'kind' => 'box', 'frames' => $frames], ['class' => 'net', 'kind' => 'polygon', 'frames' => array_fill(60, 90, [10, 10, 90, 10, 60, 80])]]];
        $work = RowPass::work(['a.mp4' => $truth, 'b.mp4' => $truth, 'c.mp4' => $truth]);
        self::assertSame(['a.mp4', 'b.mp4'], array_column($work, 'path'));
        $check = new MarkCheck($codebook);
        foreach ($work as $entry) {
            $marks = [];
            foreach ($entry['marks'] as $i => $data) {
                $first = ['place' => $data['place'], 'geometry' => $data['geometry']];
                $mark = Mark::fromArray(['id' => sprintf('01%024d', $i), 'keys' => [$first, ...$data['keys']]] + $data);
                $check->admit($mark, Extent::plane(RowPass::WIDTH, RowPass::HEIGHT, 240));
                $marks[] = $mark;
            }
            self::assertLessThan(40, count($marks[0]->keys));
            $findings = $check->item($marks, Extent::plane(RowPass::WIDTH, RowPass::HEIGHT, 240), ItemAnswers::fromArray($entry['said']));
            self::assertSame([], array_map(static fn (Finding $finding): string => $finding->message, $findings));
        }
    }
}
