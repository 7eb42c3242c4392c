<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\SkenoJson\SkenoJsonReader;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Tests\Samples;

final class FormatsTest extends TestCase
{
    /** @param  list<DatasetItem>  $items */
    private static function written(Format $format, array $items): Folder
    {
        $folder = new Folder(Samples::temporaryFolder());
        $format->writer(Samples::codebook())->write(Samples::dataset($items), $folder, false);

        return $folder;
    }

    public function test_coco_numbers(): void
    {
        $json = json_decode(self::written(Format::Coco, Samples::items())->read('annotations/all.json'), true);
        self::assertSame(['north terrace/a.png', 'north terrace/b.png', 'slope/c.png'], array_column($json['images'], 'file_name'));
        self::assertSame([true, true, false], array_column($json['images'], 'labelled'));
        self::assertSame([['id' => 1, 'name' => 'Apple', 'supercategory' => ''], ['id' => 2, 'name' => 'Leaf scab', 'supercategory' => ''], ['id' => 3, 'name' => 'Too blurred', 'supercategory' => '']], $json['categories']);
        self::assertSame([1.25, 2.5, 10.1, 8], $json['annotations'][0]['bbox']);
        self::assertEqualsWithDelta(80.8, $json['annotations'][0]['area'], 1e-9);
        self::assertSame([1, 2, 1], array_column($json['annotations'], 'category_id'));
        self::assertSame(['damage' => ['bird', 'crack'], 'no_value' => ['ripeness' => 'unsure'], 'stack' => 5], $json['annotations'][2]['attributes']);
    }

    public function test_voc_corners_are_one_based_and_inclusive(): void
    {
        $folder = self::written(Format::Voc, Samples::items());
        $xml = simplexml_load_string($folder->read('Annotations/north terrace/a.xml'));
        self::assertNotFalse($xml);
        // 1.25…11.35 × 2.5…10.5: round(1.25)+1, round(2.5)+1, round(11.35), round(10.5)
        self::assertSame(['2', '4', '11', '11'], array_map(strval(...), [$xml->object[0]->bndbox->xmin, $xml->object[0]->bndbox->ymin, $xml->object[0]->bndbox->xmax, $xml->object[0]->bndbox->ymax]));
        // a box over the whole picture
        self::assertSame(['1', '1', '40', '30'], array_map(strval(...), [$xml->object[2]->bndbox->xmin, $xml->object[2]->bndbox->ymin, $xml->object[2]->bndbox->xmax, $xml->object[2]->bndbox->ymax]));
        self::assertSame('Leaf scab', (string) $xml->object[1]->name);
        self::assertTrue($folder->has('Annotations/north terrace/b.xml'), 'nothing there: an XML without objects');
        self::assertFalse($folder->has('Annotations/slope/c.xml'), 'not labelled: no XML');
    }

    public function test_yolo_lines_and_the_three_states(): void
    {
        $folder = self::written(Format::Yolo, array_map(static fn (DatasetItem $item): DatasetItem => $item->withPart(Part::Train), Samples::items()));
        self::assertSame(
            "0 0.157500 0.216667 0.252500 0.266667\n1 0.882500 0.840000 0.235000 0.320000\n0 0.500000 0.500000 1.000000 1.000000\n",
            $folder->read('labels/train/north terrace/a.txt'),
        );
        self::assertSame('', $folder->read('labels/train/north terrace/b.txt'));
        self::assertFalse($folder->has('labels/train/slope/c.txt'));
        self::assertStringContainsString("names:\n  0: Apple\n  1: 'Leaf scab'\n", $folder->read('data.yaml'));
        self::assertStringContainsString("# no picture fell to val: it is train\nval: images/train\n", $folder->read('data.yaml'), 'no folder is named that is not there');
        self::assertStringNotContainsString('images/test', $folder->read('data.yaml'));
    }

    public function test_skeno_json_is_loss_free(): void
    {
        $folder = self::written(Format::Skeno, Samples::items(Part::Val));
        self::assertEquals(Samples::items(Part::Val), iterator_to_array(SkenoJsonReader::items($folder->file('dataset.json')), false));
    }

    /** @return iterable<string, array{Format}> */
    public static function formats(): iterable
    {
        foreach (array_filter(Format::cases(), static fn (Format $format): bool => ! $format->holdsOnlyTracks() && ! $format->holdsOnlyTexts()) as $format) {
            // these two hold no plain boxes; ShapesTest has what they hold
            if ($format !== Format::CocoPanoptic && $format !== Format::YoloPose) {
                yield $format->value => [$format];
            }
        }
    }

    /** Whatever boxes are drawn, every format reads back what it wrote, within its own rounding. */
    #[DataProvider('formats')]
    public function test_random_datasets_read_back(Format $format): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(17));
        $items = [];
        for ($i = 0; $i < 40; $i++) {
            // formats of pixels look at each one: small pictures will do
            $small = in_array($format, [Format::Masks, Format::CocoPanoptic, Format::Voc], true);
            [$width, $height] = [$random->getInt(50, $small ? 160 : 4000), $random->getInt(50, $small ? 120 : 3000)];
            $marks = [];
            for ($j = $random->getInt(0, 6); $j > 0; $j--) {
                $x = $random->getInt(0, ($width - 20) * 100) / 100;
                $y = $random->getInt(0, ($height - 20) * 100) / 100;
                $box = Box::of($x, $y, $random->getInt(1, (int) (($width - $x) * 100)) / 100, $random->getInt(1, (int) (($height - $y) * 100)) / 100);
                $marks[] = Mark::of(Samples::id($i * 10 + $j), ['apple', 'scab', 'blurred'][$random->getInt(0, 2)], $box);
            }
            $items[] = new DatasetItem(sprintf('set %d/p%02d.jpg', $i % 3, $i), $width, $height, hash('sha256', (string) $i), $marks === [] ? ($i % 2 === 0 ? Labelled::Nothing : Labelled::Unlabelled) : Labelled::Objects, $marks);
        }
        usort($items, static fn (DatasetItem $a, DatasetItem $b): int => strcmp($a->path, $b->path));
        $dataset = Samples::dataset($items);
        $writer = $format->writer(Samples::codebook());
        $folder = self::written($format, $items);
        $compared = (new ReadBack($dataset, $format, $writer))->compare($folder);
        self::assertSame([], $compared['differences']);
        self::assertGreaterThan(60, $compared['marks']);
        $digests = static fn (Folder $of): array => array_map(static fn (string $file): string => md5_file($of->file($file)).$file, $of->files());
        self::assertSame($digests($folder), $digests(self::written($format, $items)), 'the same bytes each time');
    }

    /** The comparison must see a changed number, a lost picture, and an empty file for a picture nobody labelled. */
    #[DataProvider('formats')]
    public function test_the_comparison_sees_damage(Format $format): void
    {
        $items = Samples::items();
        $moved = $items;
        $moved[0] = $items[0]->withMarks([Samples::apple(1, 3.25, 2.5, 10.1, 8), ...array_slice($items[0]->marks, 1)]);
        $emptied = $items;
        $emptied[2] = new DatasetItem('slope/c.png', 20, 10, str_repeat('c', 64), Labelled::Nothing, []);
        foreach (['a moved box' => $moved, 'a lost picture' => array_slice($items, 1), 'an empty file that claims nothing is there' => $emptied] as $what => $damaged) {
            $compared = (new ReadBack(Samples::dataset($items), $format, $format->writer(Samples::codebook())))->compare(self::written($format, $damaged));
            self::assertNotSame([], $compared['differences'], $what);
        }
    }

    /** YOLO and VOC can't say what lies past the edge: it is cut there, left out where nothing remains, and counted. */
    public function test_boxes_past_the_edge_are_cut_and_counted(): void
    {
        $items = [new DatasetItem('a.png', 100, 50, 'h', Labelled::Objects, [Samples::apple(1, 90, 10, 30, 20), Samples::apple(2, 120, 0, 10, 10)])];
        foreach ([Format::Yolo, Format::Voc] as $format) {
            $folder = new Folder(Samples::temporaryFolder());
            $writer = $format->writer(Samples::codebook());
            $counts = array_column($writer->write(Samples::dataset($items), $folder, false)->toArray(), 'count', 'what');
            self::assertSame(1, $counts['boxes that reach past the edge were cut at it']);
            self::assertCount(1, array_filter(array_keys($counts), static fn (string $what): bool => str_contains($what, 'left out') && str_contains($what, 'outside')));
            self::assertSame([], (new ReadBack(Samples::dataset($items), $format, $writer))->compare($folder)['differences']);
            self::assertCount(1, $writer->hold($items[0]));
            self::assertEqualsWithDelta(10.0, $writer->hold($items[0])[0]->geometry->bounds()->width, 1e-3);
        }
    }

    public function test_names_match_by_the_longest_common_end(): void
    {
        $known = new KnownPictures([new KnownPicture(1, 'slope/a.jpg', 1, 1), new KnownPicture(2, 'old wall/a.jpg', 1, 1), new KnownPicture(3, 'old wall/b.JPG', 1, 1)]);
        $find = static function (string $name, bool $any = false) use ($known): int|string {
            $found = $known->find($name, $any);

            return is_string($found) ? $found : $found->id;
        };
        self::assertSame(1, $find('slope/a.jpg'));
        self::assertSame(2, $find('C:\\data\\images\\train\\old wall\\a.jpg'));
        self::assertSame(3, $find('b.jpg'));
        self::assertSame(3, $find('labels/old wall/b.txt', true));
        self::assertStringContainsString('fits both', (string) $find('a.jpg'));
        self::assertStringContainsString('not in the project', (string) $find('nursery/b.jpg'));
        self::assertStringContainsString('not in the project', (string) $find('b.png'));
    }

    /**
     * @param  array<string, string>  $files
     * @return array{0: array<string, list<Mark>>, 1: list<string>, 2: list<ReadLabels>}
     */
    private static function readFrom(Format $format, array $files, ?string $path = null): array
    {
        $folder = new Folder(Samples::temporaryFolder());
        foreach ($files as $name => $contents) {
            $folder->write($name, $contents);
        }
        $known = new KnownPictures([new KnownPicture(1, 'a.png', 100, 50), new KnownPicture(2, 'sub/b.png', 100, 50)]);
        $marks = $skipped = $reads = [];
        foreach ($format->reader(Samples::codebook(), Samples::ids())->read($path === null ? $folder->root : $folder->file($path), $known) as $read) {
            if ($read instanceof ReadLabels) {
                $reads[] = $read;
                $marks[$read->picture->path] = [...$marks[$read->picture->path] ?? [], ...$read->marks];
            } else {
                $skipped[] = $read instanceof \Skeno\Core\Formats\Skipped ? "{$read->place}: {$read->reason}" : "notice: {$read->what}";
            }
        }

        return [$marks, $skipped, $reads];
    }

    public function test_coco_as_others_write_it(): void
    {
        $coco = ['annotations' => [
            ['id' => 5, 'image_id' => 10, 'category_id' => 3, 'bbox' => ['1.5', 2, 3, 4], 'attributes' => ['ripeness' => 'ripe', 'smell' => 'sweet', 'no_value' => ['damage' => 'none']]],
            ['id' => 6, 'image_id' => 99, 'category_id' => 3, 'bbox' => [1, 2, 3, 4]],
            ['id' => 7, 'image_id' => 10, 'category_id' => 8, 'bbox' => [1, 2, 3, 4]],
            ['id' => 8, 'image_id' => 10, 'category_id' => 3, 'bbox' => [1, 2, -3, 4]],
            ['id' => 9, 'image_id' => 11, 'category_id' => 3, 'bbox' => [1, 2, 3, 4]],
            ['id' => 10, 'image_id' => 10, 'category_id' => 3, 'bbox' => [1, 2, 3]],
            ['id' => 11, 'image_id' => 10, 'category_id' => 4, 'bbox' => [1, 2, 3, 4]],
            ['id' => 12, 'image_id' => 10, 'category_id' => 3, 'bbox' => [0, 0, 100, 50], 'segmentation' => [[0, 0, 1, 1, 0, 1]], 'iscrowd' => 0],
            ['id' => 13, 'image_id' => 12, 'category_id' => 3, 'bbox' => [1, 2, 3, 4]],
        ], 'images' => [
            ['id' => 10, 'file_name' => 'images\\a.png', 'width' => 100.0, 'height' => 50],
            ['id' => 11, 'file_name' => 'gone.png'],
            ['id' => 12, 'file_name' => 'b.png', 'width' => 640, 'height' => 480],
        ], 'categories' => [['id' => 3, 'name' => 'apple'], ['id' => 4, 'name' => 'pear']]];
        [$marks, $skipped] = self::readFrom(Format::Coco, ['x.json' => "\xEF\xBB\xBF".json_encode($coco)], 'x.json');
        self::assertCount(2, $marks['a.png']);
        self::assertEquals(Box::of(1.5, 2, 3, 4), $marks['a.png'][0]->geometry);
        self::assertEquals(['ripeness' => Answer::of('ripe'), 'damage' => Answer::none(\Skeno\Core\Codebook\NoValue::None)], $marks['a.png'][0]->answers);
        $all = implode("\n", $skipped);
        foreach (['annotations[1] (id 6): no image in the file has id 99', 'annotations[2] (id 7): no category', 'annotations[3] (id 8): annotations[3].bbox.width is -3', 'annotations[4] (id 9): picture "gone.png" is not in the project', 'annotations[5] (id 10): annotations[5].bbox', 'no class "pear"', 'a width of 640', 'notice: attribute "smell"', 'notice: outlines'] as $words) {
            self::assertStringContainsString($words, $all);
        }
    }

    public function test_coco_infinite_numbers_do_not_come_in(): void
    {
        [$marks, $skipped] = self::readFrom(Format::Coco, ['x.json' => '{"images":[{"id":1,"file_name":"a.png"}],"categories":[{"id":1,"name":"apple"}],"annotations":[{"id":1,"image_id":1,"category_id":1,"bbox":[1e999,0,1,1]}]}']);
        self::assertSame([], array_merge(...array_values($marks)));
        self::assertStringContainsString('bbox.x is INF', $skipped[0]);
    }

    public function test_voc_as_others_write_it(): void
    {
        $object = static fn (string $name, string $x1, string $y1, string $x2, string $y2): string => "<object><name>{$name}</name><truncated>1</truncated><bndbox><ymin>{$y1}</ymin><xmin>{$x1}</xmin><xmax>{$x2}</xmax><ymax>{$y2}</ymax></bndbox></object>";
        [$marks, $skipped] = self::readFrom(Format::Voc, [
            'Annotations/sub/b.xml' => '<annotation><folder>VOC2007</folder><filename>b.png</filename><size><width>100</width><height>50</height></size>'.$object('apple', '1', '1', '100', '50').$object('pear', '1', '1', '2', '2').$object('scab', '9.0', '5', '4', '9').'</annotation>',
            'evil.xml' => '<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><annotation><filename>a.png</filename>'.$object('&x;', '1', '1', '2', '2').'</annotation>',
            'wide.xml' => (string) mb_convert_encoding('<?xml version="1.0" encoding="UTF-16"?><!DOCTYPE a [<!ENTITY x "y">]><annotation/>', 'UTF-16'),
            'cut.xml' => '<annotation><object>',
            'gone.xml' => '<annotation><filename>gone.png</filename>'.$object('apple', '1', '1', '2', '2').'</annotation>',
        ]);
        self::assertEquals([Box::of(0, 0, 100, 50)], array_map(static fn (Mark $mark): Box => $mark->geometry, $marks['sub/b.png']));
        $all = implode("\n", $skipped);
        foreach (['object 2: the codebook has no class "pear"', 'object 3: bndbox', 'declares a document type', 'not XML', 'object 1: picture "gone.png" is not'] as $words) {
            self::assertStringContainsString($words, $all);
        }
        self::assertSame([[Flag::CutOff]], array_map(static fn (Mark $mark): array => $mark->flags, $marks['sub/b.png']));
        self::assertSame(2, substr_count($all, 'declares a document type'), 'in UTF-16 too');
    }

    public function test_the_older_layout_is_written_and_reads_back(): void
    {
        $parts = [Part::Train, Part::Val, Part::Test];
        $items = array_map(static fn (DatasetItem $item, int $i): DatasetItem => $item->withPart($parts[$i % 3]), Samples::items(), array_keys(Samples::items()));
        foreach ([Format::Yolo, Format::YoloTurned, Format::YoloSegments] as $format) {
            $writer = $format->writer(Samples::codebook(), YoloLayout::Together);
            $folder = new Folder(Samples::temporaryFolder());
            $dataset = Samples::dataset($items);
            $writer->write($dataset, $folder, false);
            self::assertSame("Apple\nLeaf scab\nToo blurred\n", $folder->read('classes.names'));
            self::assertStringContainsString("classes = 3\ntrain = train.txt\nvalid = valid.txt\n", $folder->read('pictures.data'));
            self::assertSame("data/{$items[0]->path}\n", $folder->read('train.txt'));
            self::assertSame([], (new ReadBack($dataset, $format, $writer))->compare($folder)['differences']);
            $known = new KnownPictures(array_map(static fn (DatasetItem $item, int $i): KnownPicture => new KnownPicture($i, $item->path, $item->width, $item->height), $items, array_keys($items)));
            foreach ($format->reader(Samples::codebook(), static fn (): string => Samples::id(1))->read($folder->root, $known) as $read) {
                if ($read instanceof ReadLabels) {
                    self::assertSame($items[$read->picture->id]->part, $read->part, $read->picture->path);
                }
            }
        }
    }

    public function test_pictures_of_no_part_are_train_and_valid_at_once(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        Format::Yolo->writer(Samples::codebook(), YoloLayout::Together)->write(Samples::dataset(Samples::items()), $folder, false);
        self::assertSame($folder->read('train.txt'), $folder->read('valid.txt'));
        self::assertFalse($folder->has('test.txt'));
    }

    public function test_yolo_in_both_layouts(): void
    {
        $line = "0 0.5 0.5 1.0 1.0\r\n1 0.25 0.25 0.1 0.1\r\n";
        [$marks, , $reads] = self::readFrom(Format::Yolo, ['data.yaml' => "names: [Apple, Leaf scab]\n", 'labels/train/sub/b.txt' => $line, 'labels/val/a.txt' => '']);
        self::assertEquals(Box::of(0, 0, 100, 50), $marks['sub/b.png'][0]->geometry);
        self::assertSame('scab', $marks['sub/b.png'][1]->class);
        self::assertSame([Part::Train, Part::Val], array_map(static fn (ReadLabels $read): ?Part => $read->part, $reads));
        self::assertNull($reads[1]->labelled, 'an empty file does not say by itself that nothing is there');

        [$marks] = self::readFrom(Format::Yolo, ['fruit.names' => "apple\nscab\n", 'train.txt' => "data/a.png\n", 'a.txt' => $line, 'sub/b.txt' => "1 0.5 0.5 0.2 0.2\n"]);
        self::assertSame(['apple', 'scab', 'scab'], array_map(static fn (Mark $mark): string => $mark->class, [...$marks['a.png'], ...$marks['sub/b.png']]));
    }

    public function test_yolo_lines_that_cannot_be_are_listed(): void
    {
        [$marks, $skipped] = self::readFrom(Format::Yolo, ['data.yaml' => "names: {0: apple, 1: pear}\n", 'labels/a.txt' => "0 0.5 0.5 x 1\n7 0.5 0.5 1 1\n1 0.5 0.5 1 1\n0 0.1 0.1 0.2 0.2 0.3\n0 50 20 10 10\n0 .5 .5 .5 .5\n", 'labels/gone.txt' => "0 0.5 0.5 1 1\n"]);
        self::assertCount(1, $marks['a.png']);
        self::assertCount(6, $skipped);
        foreach (['line 1: w is "x"', 'line 2: class is 7', 'line 3: class is "pear"', 'line 4: the line is "6 numbers"', 'line 5: cx is 50', 'line 1: picture "gone.txt" is not'] as $words) {
            self::assertStringContainsString($words, implode("\n", $skipped));
        }
    }
}
