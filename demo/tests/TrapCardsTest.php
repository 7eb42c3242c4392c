<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Demo\CanopyWalk;
use Skeno\Demo\Chance;
use Skeno\Demo\TrapCards;

final class TrapCardsTest extends TestCase
{
    public function test_a_card_and_its_truth_belong_together(): void
    {
        [$image, $poses] = TrapCards::picture(new Chance('trap/4'));
        [$again, $same] = TrapCards::picture(new Chance('trap/4'));
        self::assertEquals($poses, $same);
        self::assertSame(md5($image->getImageBlob()), md5($again->getImageBlob()), 'the same seed draws the same card');
        self::assertNotSame([], $poses);
        foreach ($poses as $pose) {
            foreach (['tail', 'head'] as $key) {
                $node = $pose->nodes[$key] ?? null;
                if ($node === null || $node['state'] === Pose::HIDDEN || $node['x'] < 12 || $node['y'] < 12 || $node['x'] > TrapCards::WIDTH - 12 || $node['y'] > TrapCards::HEIGHT - 12) {
                    continue;
                }
                // the body is darker than the card anywhere
                $darkest = 255;
                for ($dx = -8; $dx <= 8; $dx += 2) {
                    for ($dy = -8; $dy <= 8; $dy += 2) {
                        $darkest = min($darkest, $image->getImagePixelColor((int) $node['x'] + $dx, (int) $node['y'] + $dy)->getColor()['b']);
                    }
                }
                self::assertLessThan(95, $darkest, "{$key} at {$node['x']}, {$node['y']}");
            }
        }
    }

    public function test_the_work_is_work_the_core_accepts(): void
    {
        $truth = [];
        foreach (TrapCards::plan(30) as $card) {
            $truth[$card['path']] = [Pose::of(['head' => ['x' => 100, 'y' => 100, 'state' => 'visible'], 'tail' => ['x' => 1279.9, 'y' => 180, 'state' => 'hidden']])];
        }
        self::assertCount(30, $truth);
        $check = new MarkCheck(Codebook::fromJson((string) file_get_contents(CanopyWalk::file('trap-cards.json'))));
        $work = TrapCards::work($truth);
        self::assertCount(20, $work, 'the third week has not been begun');
        foreach ($work as $entry) {
            $marks = array_map(static fn (int $i, array $mark): Mark => Mark::fromArray(['id' => sprintf('01%024d', $i)] + $mark), array_keys($entry['marks']), $entry['marks']);
            foreach ($marks as $mark) {
                $check->admit($mark, Extent::plane(TrapCards::WIDTH, TrapCards::HEIGHT));
            }
            self::assertSame([], array_map(static fn (Finding $finding): string => $finding->message, $check->item($marks, Extent::plane(TrapCards::WIDTH, TrapCards::HEIGHT), ItemAnswers::fromArray($entry['said']))));
        }
        self::assertCount(10, array_filter($work, static fn (array $entry): bool => isset($entry['decision'])));
    }
}
