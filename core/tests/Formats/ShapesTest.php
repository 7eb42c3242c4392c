<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Formats\Csv\Csv;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Yolo\Seam;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\Imaging\VocColors;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Tests\Samples;

/** Every shape through every format: out, back, and compared. */
final class ShapesTest extends TestCase
{
    /** @return iterable<string, array{Format, list<string>}> the kinds each format gives back as the same kind */
    public static function formats(): iterable
    {
        yield 'coco' => [Format::Coco, ['box', 'mask', 'points', 'polygon', 'skeleton', 'turned_box']];
        yield 'coco-panoptic' => [Format::CocoPanoptic, ['mask', 'polygon']];
        yield 'voc' => [Format::Voc, ['box', 'mask', 'polygon']];
        yield 'yolo' => [Format::Yolo, ['box', 'turned_box']];
        yield 'yolo-turned' => [Format::YoloTurned, ['box', 'turned_box']];
        yield 'yolo-segments' => [Format::YoloSegments, ['mask', 'polygon', 'turned_box']];
        yield 'yolo-pose' => [Format::YoloPose, ['skeleton']];
        yield 'masks' => [Format::Masks, ['mask', 'polygon']];
        yield 'csv' => [Format::Csv, ['box', 'cuboid_2d', 'ellipse', 'mask', 'points', 'polygon', 'polyline', 'skeleton', 'turned_box']];
        yield 'skeno' => [Format::Skeno, ['box', 'cuboid_2d', 'ellipse', 'mask', 'points', 'polygon', 'polyline', 'skeleton', 'turned_box']];
    }

    /** @param  list<string>  $kinds */
    #[DataProvider('formats')]
    public function test_random_shapes_read_back(Format $format, array $kinds): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(23));
        $items = [];
        for ($i = 0; $i < 12; $i++) {
            $marks = [];
            for ($j = 1; $j <= 9; $j++) {
                [$class, $geometry] = self::shape($random, 90, 70);
                $marks[] = Mark::of(Samples::id($i * 10 + $j), $class, $geometry, stack: $j, flags: $random->getInt(0, 5) === 0 ? [Flag::Crowd] : []);
            }
            $items[] = new DatasetItem(sprintf('row/%02d.png', $i), 90, 70, 'h', Labelled::Objects, $marks);
        }
        $codebook = Samples::shapes();
        $dataset = Samples::dataset($items, $codebook);
        $writer = $format->writer($codebook);
        $folder = new Folder(Samples::temporaryFolder());
        $writer->write($dataset, $folder, false);
        $compared = (new ReadBack($dataset, $format, $writer))->compare($folder);
        self::assertSame([], $compared['differences']);
        self::assertGreaterThan(5, $compared['marks']);
        [$read] = self::read($format, $folder, $items);
        $found = array_values(array_unique(array_map(static fn (Mark $mark): string => $mark->kind->value, array_merge(...array_values($read)))));
        sort($found);
        self::assertSame($kinds, $found);
    }

    /** Outlines keep 0.01 px, masks every pixel, nodes every digit. */
    public function test_numbers_through_coco(): void
    {
        $outline = Polygon::of([[10.01, 10.02, 50.33, 12.5, 40.75, 44.44], [60, 10, 70, 10, 65, 20]]);
        $hole = Polygon::of([[0, 0, 20, 0, 20, 20, 0, 20], [5, 5, 15, 5, 15, 15, 5, 15]]);
        $mask = ScanConversion::mask([[1, 1, 30, 5, 20, 40]], 90, 70);
        $pose = Pose::of(['head' => ['x' => 1.123456789012, 'y' => 2.5, 'state' => 'visible'], 'fore_r' => ['x' => 30, 'y' => 40, 'state' => 'hidden']]);
        $marks = [
            Mark::of(Samples::id(1), 'leaf', $outline),
            Mark::of(Samples::id(2), 'scab', $mask, partOf: Samples::id(1), flags: [Flag::Hidden, Flag::Crowd]),
            Mark::of(Samples::id(3), 'moth', $pose),
            Mark::of(Samples::id(4), 'scab', $hole),
            Mark::of(Samples::id(5), 'bud', PointSet::of([1.5, 2.5, 3, 4, 5, 6])),
            Mark::of(Samples::id(6), 'branch', Polyline::of([1, 1, 9, 9])),
        ];
        $items = [new DatasetItem('a.png', 90, 70, 'h', Labelled::Objects, $marks, said: ItemAnswers::of(['usable' => Answer::of(true)], ['wet', 'backlit']))];
        [$folder, $report] = self::written(Format::Coco, $items);
        $json = json_decode($folder->read('annotations/all.json'), true);
        [$a, $b, $c, $d, $e] = $json['annotations'];
        self::assertCount(5, $json['annotations']);
        self::assertSame([[10.01, 10.02, 50.33, 12.5, 40.75, 44.44], [60, 10, 70, 10, 65, 20]], $a['segmentation']);
        // shoelace by hand: 0.5·|10.01(12.5−44.44) + 50.33(44.44−10.02) + 40.75(10.02−12.5)| + 50
        self::assertEqualsWithDelta(0.5 * (10.01 * (12.5 - 44.44) + 50.33 * (44.44 - 10.02) + 40.75 * (10.02 - 12.5)) + 50, $a['area'], 1e-9);
        self::assertSame(['size' => [70, 90], 'counts' => $mask->toArray()['counts']], $b['segmentation']);
        self::assertSame([1, $mask->area(), ['flags' => ['hidden'], 'part_of' => 1]], [$b['iscrowd'], (float) $b['area'], $b['attributes']]);
        self::assertSame([1.123456789012, 2.5, 2, 0, 0, 0, 30, 40, 1], $c['keypoints']);
        self::assertSame(2, $c['num_keypoints']);
        self::assertSame(['head', 'fore_l', 'fore_r'], $json['categories'][6]['keypoints']);
        self::assertSame([[1, 2], [1, 3]], $json['categories'][6]['skeleton']);
        self::assertSame(['tip', 'left scale', 'point_3'], $json['categories'][5]['keypoints']);
        self::assertSame(300, $d['area'], 'a hole makes it a mask: 400 − 100 pixels');
        self::assertSame([1.5, 2.5, 2, 3, 4, 2, 5, 6, 2], $e['keypoints']);
        self::assertSame([['usable' => true], ['wet', 'backlit']], [$json['images'][0]['attributes'], $json['images'][0]['tags']]);
        self::assertSame(['polygons with holes went out as masks' => 1, 'marks drawn as polyline can\'t be said in COCO and were left out' => 1], $report);

        [$read, $skipped, $reads] = self::read(Format::Coco, $folder, $items);
        self::assertSame([], $skipped);
        self::assertEquals([$outline, $mask, $pose], array_map(static fn (Mark $mark): Geometry => $mark->geometry, array_slice($read['a.png'], 0, 3)));
        self::assertSame($read['a.png'][0]->id, $read['a.png'][1]->partOf);
        self::assertSame([Flag::Hidden, Flag::Crowd], $read['a.png'][1]->flags);
        self::assertSame(['wet', 'backlit'], $reads[0]->said?->tags);
    }

    /** What other writers produce: plain counts, crowd marks, crossing outlines, degenerate rings, keypoints by other names. */
    public function test_coco_as_others_write_it(): void
    {
        $folder = self::files(['a.json' => json_encode([
            'images' => [['id' => 1, 'file_name' => 'a.png']],
            'categories' => [['id' => 1, 'name' => 'Leaf scab'], ['id' => 2, 'name' => 'Leaf'], ['id' => 3, 'name' => 'moth', 'keypoints' => ['Fore wing, right', 'Head']], ['id' => 4, 'name' => 'apple']],
            'annotations' => [
                ['id' => 1, 'image_id' => 1, 'category_id' => 1, 'iscrowd' => 1, 'segmentation' => ['size' => [70, 90], 'counts' => [70, 10, 6220]]],
                ['id' => 2, 'image_id' => 1, 'category_id' => 1, 'segmentation' => [[0, 0, 10, 10, 10, 0, 0, 10]]],
                ['id' => 3, 'image_id' => 1, 'category_id' => 2, 'segmentation' => [[0, 0, 10, 10, 10, 0, 0, 10]]],
                ['id' => 4, 'image_id' => 1, 'category_id' => 2, 'segmentation' => [[0, 0, 10, 0, 10, 10], [5, 5, 6, 6]]],
                ['id' => 5, 'image_id' => 1, 'category_id' => 3, 'keypoints' => [5, 6, 2, 7, 8, 1], 'bbox' => [1, 2, 3, 4]],
                ['id' => 6, 'image_id' => 1, 'category_id' => 1, 'segmentation' => ['size' => [70, 90], 'counts' => [9000, 1]]],
                ['id' => 7, 'image_id' => 1, 'category_id' => 1, 'segmentation' => ['size' => [7, 9], 'counts' => [63]]],
                ['id' => 8, 'image_id' => 1, 'category_id' => 1, 'segmentation' => [[0, 0, 10, 'x', 10, 10]]],
                ['id' => 9, 'image_id' => 1, 'category_id' => 4, 'segmentation' => [[1, 2, 4, 2, 4, 6]], 'bbox' => [1, 2, 3, 4]],
            ],
        ])]);
        [$read, $skipped] = self::read(Format::Coco, $folder, [new DatasetItem('a.png', 90, 70, 'h', Labelled::Nothing, [])]);
        [$crowd, $crossing, $ring, $moth, $apple] = $read['a.png'];
        self::assertSame([[Flag::Crowd], 10.0], [$crowd->flags, $crowd->geometry->area()]);
        self::assertInstanceOf(Mask::class, $crossing->geometry, 'an outline that crosses itself becomes its pixels where the class takes masks');
        self::assertEquals(Polygon::of([[0, 0, 10, 0, 10, 10]]), $ring->geometry);
        self::assertEquals(Pose::of(['fore_r' => ['x' => 5, 'y' => 6, 'state' => 'visible'], 'head' => ['x' => 7, 'y' => 8, 'state' => 'hidden']]), $moth->geometry);
        self::assertInstanceOf(Mask::class, $apple->geometry, 'apples have boxes and masks, so an outline becomes a mask');
        $all = implode("\n", $skipped);
        foreach (['annotations[2] (id 3): annotations[2].segmentation is "an outline that crosses itself', 'annotations[5] (id 6): segmentation.counts[0] is 9000', 'annotations[6] (id 7): annotations[6].segmentation.size is "7 × 9"', 'annotations[7] (id 8): annotations[7].segmentation[0][3] is "x"'] as $words) {
            self::assertStringContainsString($words, $all);
        }
        self::assertCount(4, array_filter($skipped, static fn (string $line): bool => ! str_starts_with($line, 'notice')));
    }

    public function test_voc_index_images(): void
    {
        $below = ScanConversion::mask([[0, 0, 20, 0, 20, 20, 0, 20]], 90, 70);
        $above = ScanConversion::mask([[10, 0, 30, 0, 30, 20, 10, 20]], 90, 70);
        $items = [new DatasetItem('a.png', 90, 70, 'h', Labelled::Objects, [
            Mark::of(Samples::id(1), 'scab', $below),
            Mark::of(Samples::id(2), 'apple', Box::of(40, 40, 10, 10)),
            Mark::of(Samples::id(3), 'apple', $above),
            Mark::of(Samples::id(4), 'blurred', Polygon::of([[60, 0, 70, 0, 70, 10, 60, 10]])),
        ])];
        [$folder, $report] = self::written(Format::Voc, $items);
        $classes = IndexImage::read($folder->file('SegmentationClass/a.png'), 90, 70)->masks();
        $objects = IndexImage::read($folder->file('SegmentationObject/a.png'), 90, 70)->masks();
        self::assertSame([0, 1, 2, 255], array_keys($classes));
        self::assertSame([0, 1, 3, 4], array_keys($objects), 'the n-th object of the XML; a plain box has no pixels');
        self::assertSame([400.0, 200.0, 100.0], [$classes[1]->area(), $classes[2]->area(), $classes[255]->area()], 'the mark higher in the stack takes the common pixels');
        self::assertSame(200, $report['pixels under more than one mark were given to the one highest in the stack']);
        // the standard map: 1 dark red, 2 dark green, 3 dark yellow, 4 dark blue, 255 cream
        self::assertSame([[0, 0, 0], [128, 0, 0], [0, 128, 0], [128, 128, 0], [0, 0, 128]], array_slice(VocColors::map(), 0, 5));
        self::assertSame([224, 224, 192], VocColors::map()[255]);
        self::assertSame([8, 3], array_values(array_intersect_key((array) unpack('x24/Cbits/Ctype', $folder->read('SegmentationClass/a.png')), ['bits' => 1, 'type' => 1])), '8 bits, palette');
        self::assertStringContainsString("2,Leaf scab,0,128,0\r\n", $folder->read('classes.csv'));
        self::assertStringContainsString('<segmented>1</segmented>', $folder->read('Annotations/a.xml'));
    }

    public function test_yolo_lines_of_each_kind(): void
    {
        $items = [new DatasetItem('a.png', 100, 50, 'h', Labelled::Objects, [
            Mark::of(Samples::id(1), 'trunk', TurnedBox::of(50, 25, 20, 10, 90)),
            Mark::of(Samples::id(2), 'leaf', Polygon::of([[0, 0, 40, 0, 40, 40, 0, 40], [10, 10, 20, 10, 20, 20]])),
            Mark::of(Samples::id(3), 'moth', Pose::of(['head' => ['x' => 10, 'y' => 10, 'state' => 'visible'], 'fore_r' => ['x' => 30, 'y' => 20, 'state' => 'hidden']])),
        ])];
        self::assertSame("4 0.550000 0.300000 0.550000 0.700000 0.450000 0.700000 0.450000 0.300000\n", self::written(Format::YoloTurned, $items)[0]->read('labels/all/a.txt'), 'clockwise from what was top left');
        $folder = self::written(Format::YoloPose, $items)[0];
        self::assertSame("6 0.200000 0.300000 0.200000 0.200000 0.100000 0.200000 2 0.000000 0.000000 0 0.300000 0.400000 1\n", $folder->read('labels/all/a.txt'));
        self::assertStringContainsString("kpt_shape: [3, 3]\nflip_idx: [0, 2, 1]\n", $folder->read('data.yaml'));
        $lines = explode("\n", self::written(Format::YoloSegments, $items)[0]->read('labels/all/a.txt'));
        // the seam: from the nearest corner to the hole, once round it and back
        self::assertSame('2 0.000000 0.000000 0.100000 0.200000 0.200000 0.200000 0.200000 0.400000 0.100000 0.200000 0.000000 0.000000 0.400000 0.000000 0.400000 0.800000 0.000000 0.800000', $lines[1]);
        self::assertCount(3, $lines);
    }

    public function test_seams_are_undone(): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(9));
        for ($round = 0; $round < 50; $round++) {
            $rings = [];
            for ($i = $random->getInt(1, 5); $i > 0; $i--) {
                [$x, $y, $size] = [$i * 30, $random->getInt(0, 50), $random->getInt(5, 20)];
                $rings[] = array_map(floatval(...), [$x, $y, $x + $size, $y, $x + $size, $y + $size, $x + 1, $y + $size + 2]);
            }
            $parts = Seam::part(Seam::join($rings));
            $normal = static function (array $list): array {
                $all = array_map(static function (array $ring): string {
                    $points = array_chunk($ring, 2);
                    $least = array_search(min($points), $points, true);

                    return json_encode([...array_slice($points, (int) $least), ...array_slice($points, 0, (int) $least)]) ?: '';
                }, $list);
                sort($all);

                return $all;
            };
            self::assertSame($normal($rings), $normal($parts));
        }
    }

    public function test_csv_says_everything_and_runs_nothing(): void
    {
        self::assertSame("'=1+1,\"a \"\"b\"\", c\",-2.5,,'@x\r\n", Csv::line(['=1+1', 'a "b", c', -2.5, null, '@x']));
        self::assertSame(['=1+1', "'quoted", '-x'], array_map(Csv::text(...), ["'=1+1", "'quoted", "'-x"]));
        $items = [
            new DatasetItem('row, one/=a.png', 90, 70, 'h', Labelled::Objects, [Mark::of(Samples::id(1), 'apple', Ellipse::of(20, 20, 5, 4, 30), ['ripeness' => Answer::none(\Skeno\Core\Codebook\NoValue::Unsure)], 3, flags: [Flag::Hard])], said: ItemAnswers::of(['usable' => Answer::of(false), 'remark' => Answer::of("=HYPERLINK(\"x\"),\nhm")], ['wet'])),
            new DatasetItem('b.png', 90, 70, 'h', Labelled::Nothing, []),
        ];
        [$folder] = self::written(Format::Csv, $items);
        self::assertStringContainsString("\"'=HYPERLINK(\"\"x\"\"),\nhm\"", $folder->read('items.csv'));
        [$read, $skipped, $reads] = self::read(Format::Csv, $folder, $items);
        self::assertSame([], $skipped);
        $mark = $read['row, one/=a.png'][0];
        self::assertEquals([$items[0]->marks[0]->geometry, $items[0]->marks[0]->answers, 3, [Flag::Hard]], [$mark->geometry, $mark->answers, $mark->stack, $mark->flags]);
        self::assertEquals($items[0]->said, $reads[1]->said);
        self::assertSame(Labelled::Nothing, $reads[2]->labelled);
        // a plain table of boxes as others make it
        [$plain, $problems] = self::read(Format::Csv, self::files(['marks.csv' => "\u{FEFF}Filename,Label,X,Y,Width,Height\nb.png,Apple,1,2,3,4\nb.png,pear,1,2,3,4\nb.png,apple,1,x,3,4\n"]), $items);
        self::assertEquals(Box::of(1, 2, 3, 4), $plain['b.png'][0]->geometry);
        self::assertSame(['marks.csv, line 3: the codebook has no class "pear"', 'marks.csv, line 4: y is "x"; expected a number'], $problems);
    }

    public function test_masks_of_a_wrong_size_or_another_kind_are_refused(): void
    {
        $items = [new DatasetItem('a.png', 90, 70, 'h', Labelled::Objects, [Mark::of(Samples::id(1), 'scab', ScanConversion::mask([[1, 1, 30, 5, 20, 40]], 90, 70))])];
        [$folder] = self::written(Format::Masks, $items);
        [, $skipped] = self::read(Format::Masks, $folder, [new DatasetItem('a.png', 91, 70, 'h', Labelled::Nothing, [])]);
        self::assertStringContainsString('"90 × 70"; expected 91 × 70', implode("\n", $skipped));
        $folder->write('objects/a.png/0001.png', 'GIF89a');
        [$read, $skipped] = self::read(Format::Masks, $folder, $items);
        self::assertStringContainsString('0001.png', implode("\n", $skipped));
        self::assertSame([], $read['a.png']);
        $folder->write('objects.csv', "picture,file,class\r\na.png,objects/../../../etc/passwd.png,Leaf scab\r\n");
        [$read] = self::read(Format::Masks, $folder, $items);
        self::assertSame($items[0]->marks[0]->geometry->area(), $read['a.png'][0]->geometry->area(), 'without a usable table the class image is read');
    }

    /** @return array{string, Geometry} */
    private static function shape(Randomizer $random, int $width, int $height): array
    {
        $n = static fn (float $from, float $to): float => $random->getInt((int) ($from * 100), (int) ($to * 100)) / 100;
        [$x, $y, $w, $h] = [$n(1, $width - 40), $n(1, $height - 40), $n(5, 35), $n(5, 35)];
        $triangle = [$x, $y, $x + $w, $y + $n(0, 4), $x + $n(0, $w), $y + $h];

        return match ($random->getInt(0, 9)) {
            0 => ['apple', Box::of($x, $y, $w, $h)],
            1 => ['apple', Ellipse::of($x + 20, $y + 20, $w / 2, $h / 2, $n(0, 180))],
            2 => ['apple', ScanConversion::mask([$triangle], $width, $height)],
            3 => ['scab', Polygon::of([[$x, $y, $x + $w, $y, $x + $w, $y + $h, $x, $y + $h], [$x + 1, $y + 1, $x + $w - 1, $y + 1, $x + 2, $y + $h - 1]])],
            4 => ['leaf', Polygon::of([$triangle])],
            5 => ['branch', Polyline::of($triangle)],
            6 => ['trunk', TurnedBox::of($x + 20, $y + 20, $w / 2, $h / 2, $n(0, 359))],
            7 => ['bud', PointSet::of($triangle)],
            8 => ['moth', Pose::of(['head' => ['x' => $x, 'y' => $y, 'state' => 'visible'], 'fore_l' => ['x' => $x + $w, 'y' => $y + $h, 'state' => 'hidden']])],
            default => ['crate', Faces::of(Box::of($x, $y, $w, $h), Box::of($x + 1, $y + 2, $w / 2, $h / 2))],
        };
    }

    /**
     * @param  list<DatasetItem>  $items
     * @return array{Folder, array<string, int>} and what the format could not hold
     */
    private static function written(Format $format, array $items): array
    {
        $folder = new Folder(Samples::temporaryFolder());
        $report = $format->writer(Samples::shapes())->write(Samples::dataset($items, Samples::shapes()), $folder, false);

        return [$folder, array_column($report->toArray(), 'count', 'what')];
    }

    /** @param  array<string, string|false>  $files */
    private static function files(array $files): Folder
    {
        $folder = new Folder(Samples::temporaryFolder());
        foreach ($files as $name => $contents) {
            $folder->write($name, (string) $contents);
        }

        return $folder;
    }

    /**
     * @param  list<DatasetItem>  $items
     * @return array{array<string, list<Mark>>, list<string>, list<ReadLabels>} marks by path; what was skipped or noticed; all reads
     */
    private static function read(Format $format, Folder $folder, array $items): array
    {
        $known = array_map(static fn (int $i, DatasetItem $item): KnownPicture => new KnownPicture($i, $item->path, $item->width, $item->height), array_keys($items), $items);
        $marks = $skipped = $reads = [];
        foreach ($format->reader(Samples::shapes(), Samples::ids())->read($folder->root, new KnownPictures($known)) as $read) {
            if ($read instanceof ReadLabels) {
                $reads[] = $read;
                $marks[$read->picture->path] = [...$marks[$read->picture->path] ?? [], ...$read->marks];
            } elseif ($read instanceof Skipped) {
                $skipped[] = "{$read->file}, {$read->place}: {$read->reason}";
            }
        }

        return [$marks, $skipped, $reads];
    }
}
