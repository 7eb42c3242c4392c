<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Noticed;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tests\Samples;

final class NoticedTest extends TestCase
{
    /** @return iterable<string, array{Format}> */
    public static function written(): iterable
    {
        foreach ([Format::Coco, Format::CocoPanoptic, Format::Voc, Format::Yolo, Format::YoloTurned, Format::YoloSegments, Format::YoloPose, Format::Csv, Format::Skeno] as $format) {
            yield $format->value => [$format];
        }
    }

    #[DataProvider('written')]
    public function test_what_was_written_is_told_apart_by_what_is_in_it(Format $format): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $items = [new DatasetItem('slope/a.png', 100, 50, 'h', Labelled::Objects, [
            Mark::of(Samples::id(1), 'apple', Box::of(1, 1, 20, 20)),
            Mark::of(Samples::id(2), 'trunk', TurnedBox::of(50, 25, 20, 10, 30)),
            Mark::of(Samples::id(3), 'leaf', Polygon::of([[0, 0, 40, 0, 40, 40]])),
            Mark::of(Samples::id(4), 'moth', Pose::of(['head' => ['x' => 10, 'y' => 10, 'state' => 'visible']])),
        ])];
        $format->writer(Samples::shapes())->write(Samples::dataset($items, Samples::shapes()), $folder, false);
        self::assertSame($format, Noticed::in($folder)[0]['format'] ?? null);
    }

    public function test_the_older_layout_is_noticed_too(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        Format::Yolo->writer(Samples::codebook(), YoloLayout::Together)->write(Samples::dataset(Samples::items()), $folder, false);
        self::assertSame([Format::Yolo], array_column(Noticed::in($folder), 'format'));
    }

    public function test_other_texts_are_no_labels(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $folder->write('readme.txt', "0 apples were found on 3 trees in 5 rows\n");
        $folder->write('numbers/a.txt', "0 0.5 0.5 0.2 0.2\n");
        $folder->write('settings.json', '{"images": "none"}');
        $folder->write('page.xml', '<page/>');
        $folder->write('facts.csv', "file,camera\na.jpg,2\n");
        // numbers without a list of classes say nothing
        self::assertSame([], Noticed::in($folder));
        $folder->write('classes.names', "apple\n");
        self::assertSame([['format' => Format::Yolo, 'files' => 1]], Noticed::in($folder));
    }
}
