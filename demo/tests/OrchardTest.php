<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Demo\Block;
use Skeno\Demo\CanopyWalk;
use Skeno\Demo\Chance;
use Skeno\Demo\Fruit;
use Skeno\Demo\Labeller;
use Skeno\Demo\Orchard;
use Skeno\Demo\Season;
use Skeno\Demo\Sprites;

final class OrchardTest extends TestCase
{
    public function test_a_picture_has_fruit_where_its_truth_says(): void
    {
        [$image, $truth] = (new Orchard(new Sprites(new Chance('sprites'))))->picture(Block::Slope, new Chance('a test'));
        self::assertSame([Orchard::WIDTH, Orchard::HEIGHT], [$image->getImageWidth(), $image->getImageHeight()]);
        $ripe = array_values(array_filter($truth, static fn (Fruit $fruit): bool => ($fruit->answers['ripeness']['value'] ?? '') === 'ripe' && $fruit->visible > 0.9));
        self::assertNotEmpty($ripe);
        foreach ($ripe as $fruit) {
            self::assertSame(0.0, $fruit->box->overhang(Orchard::WIDTH, Orchard::HEIGHT));
            $middle = $image->getImagePixelColor((int) ($fruit->box->x + $fruit->box->width / 2), (int) ($fruit->box->y + $fruit->box->height / 2))->getColor();
            self::assertGreaterThan($middle['g'] + 25, $middle['r'], 'ripe fruit is red in its middle');
        }
    }

    public function test_the_plan_is_the_same_each_time_and_names_are_unique(): void
    {
        $paths = array_column(CanopyWalk::plan(15), 'path');
        self::assertCount(60, array_unique($paths));
        self::assertSame($paths, array_column(CanopyWalk::plan(15), 'path'));
    }

    public function test_people_differ_from_the_truth_as_they_are_said_to(): void
    {
        $truth = [];
        for ($i = 0; $i < 200; $i++) {
            $truth[] = new Fruit('apple', Box::of(100 + $i % 20 * 50, 100 + intdiv($i, 20) * 70, 60, 60), $i % 2 === 0 ? 1.0 : 0.4, ['ripeness' => ['value' => 'turning']]);
        }
        $mean = static fn (array $numbers): float => array_sum($numbers) / count($numbers);
        $marks = [];
        foreach (Labeller::cases() as $person) {
            $marks[$person->name] = $person->marks($truth, new Chance("people {$person->name}"));
        }
        self::assertEqualsWithDelta(60, $mean(array_map(static fn (array $mark): float => $mark['geometry']['width'], $marks['Mei'])), 0.5);
        self::assertEqualsWithDelta(71, $mean(array_map(static fn (array $mark): float => $mark['geometry']['width'], $marks['Ravi'])), 0.7, 'Ravi leaves 5.5 px of air on each side');
        self::assertLessThan(180, count($marks['Aoife']), 'Aoife overlooks hidden fruit');
        $ripe = count(array_filter($marks['Ravi'], static fn (array $mark): bool => $mark['answers']['ripeness']['value'] === 'ripe'));
        self::assertGreaterThan(35, $ripe);
        self::assertLessThan(85, $ripe);
    }

    public function test_the_season_is_work_the_core_accepts_with_something_to_find(): void
    {
        $truth = [];
        foreach (CanopyWalk::plan(15) as $i => $picture) {
            $truth[$picture['path']] = [new Fruit('apple', Box::of(200, 200, 80, 80), 0.5, ['ripeness' => ['value' => 'ripe'], 'damage' => ['no_value' => 'none']]), new Fruit('scab', Polygon::of([[600, 300 + $i, 660, 300 + $i, 630, 350 + $i]]), 1.0, []), new Fruit('branch', Polyline::of([0, 500, 600, 520, 1280, 480]), 1.0, [])];
        }
        $codebook = Codebook::fromJson((string) file_get_contents(CanopyWalk::file('codebook.json')));
        $work = Season::work($truth);
        self::assertGreaterThan(25, count($work));
        foreach ($work as $entry) {
            $marks = array_map(static fn (int $i, array $mark): Mark => Mark::fromArray(['id' => sprintf('01%024d', $i)] + $mark), array_keys($entry['marks']), $entry['marks']);
            self::assertSame([], array_filter((new MarkCheck($codebook))->item($marks, Extent::plane(Orchard::WIDTH, Orchard::HEIGHT), ItemAnswers::fromArray($entry['said'])), static fn (Finding $finding): bool => $finding->stops));
        }
        $decisions = array_count_values(array_map(static fn (array $entry): string => $entry['decision'] ?? 'none', $work));
        self::assertGreaterThan(0, $decisions['return']);
        self::assertGreaterThan(10, $decisions['accept']);
        self::assertGreaterThan(3, $decisions['none']);
    }
}
