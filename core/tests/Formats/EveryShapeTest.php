<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Format;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Samples;

/** Every shape that can be drawn, of every class that may be drawn so, is written by every format and reads back, or is said to be left out. */
final class EveryShapeTest extends TestCase
{
    private const WIDTH = 97;

    private const HEIGHT = 61;

    /** @return array<string, Geometry> */
    private static function shapes(): array
    {
        $mask = static fn (array ...$rings): Mask => ScanConversion::mask($rings, self::WIDTH, self::HEIGHT);
        $pixels = static function (array $at): Mask {
            $union = Mask::none(self::WIDTH, self::HEIGHT);
            foreach ($at as [$x, $y]) {
                $union = $union->union(ScanConversion::mask([[$x, $y, $x + 1, $y, $x + 1, $y + 1, $x, $y + 1]], self::WIDTH, self::HEIGHT));
            }

            return $union;
        };
        $square = static fn (float $x, float $y, float $side): array => [$x, $y, $x + $side, $y, $x + $side, $y + $side, $x, $y + $side];
        $circle = [];
        for ($i = 0; $i < 400; $i++) {
            array_push($circle, round(48 + 25.3 * cos(2 * M_PI * $i / 400), 2), round(30 + 25.3 * sin(2 * M_PI * $i / 400), 2));
        }

        return [
            'polygon, simple' => Polygon::of([[10.25, 5.5, 40.13, 8.01, 33.3, 44.44, 12.7, 30]]),
            'polygon, triangle' => Polygon::of([[1, 1, 5, 1, 3, 7]]),
            'polygon, one hole' => Polygon::of([$square(10.5, 10.25, 40), $square(20.1, 20.3, 15)]),
            'polygon, two holes' => Polygon::of([$square(5, 5, 50), $square(10.5, 10.5, 10), $square(30.2, 30.7, 12)]),
            'polygon, two parts' => Polygon::of([$square(5, 5, 20), $square(40.3, 20.6, 25)]),
            'polygon, two parts and a hole' => Polygon::of([$square(5, 5, 30), $square(12, 12, 8), $square(50.25, 20, 25)]),
            'polygon, island in a hole' => Polygon::of([$square(2, 2, 56), $square(10, 10, 40), $square(20, 20, 15)]),
            'polygon, hole that touches its rim in a point' => Polygon::of([[10, 10, 50, 10, 50, 50, 10, 50], [10, 30, 20, 25, 20, 35]]),
            'polygon, parts that touch in a point' => Polygon::of([$square(10, 10, 20), $square(30, 30, 20)]),
            'polygon, parts that share an edge' => Polygon::of([$square(10, 10, 20), [30, 10, 50, 10, 50, 30, 30, 30]]),
            'polygon, closed trace' => Polygon::of([[10, 10, 30.5, 12, 28, 40, 10, 10]]),
            'polygon, closed trace with a closed hole' => Polygon::of([[...$square(10, 10, 40), 10, 10], [...$square(20, 20, 10), 20, 20]]),
            'polygon, a point twice in a row' => Polygon::of([[10, 10, 30, 10, 30, 10, 30, 40, 12, 40]]),
            'polygon, a hole by a seam walked twice' => Polygon::of([[10, 10, 50, 10, 50, 50, 10, 50, 10, 10, 20, 20, 20, 40, 40, 40, 40, 20, 20, 20]]),
            'polygon, smaller than a pixel' => Polygon::of([[10.1, 10.1, 10.6, 10.15, 10.3, 10.7]]),
            'polygon, of many points' => Polygon::of([$circle]),
            'polygon, along the edges' => Polygon::of([[0, 0, self::WIDTH, 0, self::WIDTH, self::HEIGHT, 0, self::HEIGHT]]),
            'polygon, a hair past the edge' => Polygon::of([[-0.3, 5, 20, 5, 20, 61.4, 3, 40]]),
            'mask, one pixel' => $pixels([[50, 30]]),
            'mask, the last pixel' => $pixels([[self::WIDTH - 1, self::HEIGHT - 1]]),
            'mask, the first pixel' => $pixels([[0, 0]]),
            'mask, pixels that touch at corners' => $pixels([[10, 10], [11, 11], [12, 10]]),
            'mask, all of the picture' => $mask([0, 0, self::WIDTH, 0, self::WIDTH, self::HEIGHT, 0, self::HEIGHT]),
            'mask, a hole' => $mask($square(10, 10, 30), $square(18, 18, 10)),
            'mask, parts' => $mask($square(5, 5, 10), $square(50, 30, 20)),
            'mask, round' => $mask($circle),
            'box' => Box::of(10.123, 5.456, 30.789, 20.25),
            'box, one pixel' => Box::of(12, 12, 1, 1),
            'box, all of the picture' => Box::of(0, 0, self::WIDTH, self::HEIGHT),
            'box, smaller than a pixel' => Box::of(10.4, 10.4, 0.2, 0.3),
            'turned box' => TurnedBox::of(48, 30, 40, 12.5, 33.3),
            'turned box, upright' => TurnedBox::of(30, 30, 20, 10, 0),
            'turned box, by a quarter' => TurnedBox::of(30, 30, 20, 10, 90),
            'ellipse' => Ellipse::of(48.5, 30.2, 20, 10.7, 17),
            'ellipse, small' => Ellipse::of(20, 20, 0.6, 0.4, 0),
            'polyline' => Polyline::of([1, 1, 30.5, 20.25, 60, 5]),
            'polyline, closed' => Polyline::of([10, 10, 30, 10, 30, 30, 10, 10]),
            'points' => PointSet::of([10.5, 10.5, 20, 20, 96.9, 60.9]),
            'points, one' => PointSet::of([40.25, 30.75]),
            'skeleton' => Pose::of(['head' => ['x' => 10.5, 'y' => 20.25, 'state' => 'visible'], 'tail' => ['x' => 60, 'y' => 40, 'state' => 'hidden']]),
            'skeleton, one node' => Pose::of(['tail' => ['x' => 60, 'y' => 40, 'state' => 'visible']]),
            'cuboid' => Faces::of(Box::of(10, 20, 20, 25), Box::of(30, 5, 18, 20)),
        ];
    }

    /** @return list<list<string>> what a class that is drawn as this kind may be drawn as besides */
    private static function classes(Shape $kind): array
    {
        if (! in_array($kind, [Shape::Box, Shape::TurnedBox, Shape::Polygon, Shape::Mask, Shape::Ellipse], true)) {
            return [[$kind->value], [$kind->value, 'box']];
        }
        $classes = [];
        $others = array_values(array_diff(['box', 'turned_box', 'polygon', 'mask'], [$kind->value]));
        for ($bits = 0; $bits < 2 ** count($others); $bits++) {
            $classes[] = [$kind->value, ...array_values(array_filter($others, static fn (int $i): bool => ($bits >> $i & 1) === 1, ARRAY_FILTER_USE_KEY))];
        }

        return $classes;
    }

    /** @return iterable<string, array{Format}> */
    public static function formats(): iterable
    {
        foreach (array_filter(Format::cases(), static fn (Format $format): bool => ! $format->holdsOnlyTracks() && ! $format->holdsOnlyTexts()) as $format) {
            yield $format->value => [$format];
        }
    }

    #[DataProvider('formats')]
    public function test_it_is_written_and_reads_back(Format $format): void
    {
        $wrong = [];
        $tried = $written = 0;
        foreach (self::shapes() as $name => $geometry) {
            $kind = Shape::of($geometry);
            foreach (self::classes($kind) as $shapes) {
                $codebook = Codebook::fromArray([
                    'skeno' => 'codebook/1',
                    'classes' => [['key' => 'thing', 'name' => 'Thing', 'shapes' => $shapes] + ($kind === Shape::Skeleton ? ['skeleton' => 'moth'] : []), ['key' => 'other', 'name' => 'Other', 'shapes' => ['box']]],
                    'skeletons' => [['key' => 'moth', 'name' => 'Moth', 'nodes' => [['key' => 'head', 'name' => 'Head', 'x' => 0, 'y' => 0], ['key' => 'tail', 'name' => 'Tail', 'x' => 1, 'y' => 1]], 'edges' => [['head', 'tail']]]],
                ]);
                $item = new DatasetItem('row/a.png', self::WIDTH, self::HEIGHT, 'h', Labelled::Objects, [Mark::of(Samples::id(1), 'thing', $geometry)]);
                $dataset = new Dataset('Every shape', $codebook, static fn (): iterable => [$item], static fn (): string => '');
                $tried++;
                try {
                    $report = Edition::write($dataset, Recipe::fromArray([], $codebook), $codebook, $format, false, Samples::temporaryFolder().'/out', []);
                    $written += $report['compared']['marks'];
                    if ($report['compared']['marks'] === 0 && $report['mapping'] === []) {
                        $wrong[] = "{$name} of a class drawn as ".implode(', ', $shapes).': left out without a word';
                    }
                } catch (\Throwable $e) {
                    $wrong[] = "{$name} of a class drawn as ".implode(', ', $shapes).": {$e->getMessage()}";
                }
            }
        }
        self::assertSame([], $wrong);
        self::assertGreaterThan(150, $tried);
        self::assertGreaterThan(0, $written);
    }

    private static function item(string $path, Geometry ...$shapes): DatasetItem
    {
        return new DatasetItem($path, self::WIDTH, self::HEIGHT, 'h', Labelled::Objects, array_map(static fn (Geometry $shape, int $i): Mark => Mark::of(Samples::id($i + 1), $i % 2 === 0 ? 'apple' : 'scab', $shape), array_values($shapes), array_keys(array_values($shapes))));
    }

    /** @return array{string, array<string, mixed>} the folder, the report */
    private static function release(Format $format, array $recipe, DatasetItem ...$items): array
    {
        $codebook = Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']], ['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box', 'polygon'], 'part_of' => ['leaf']], ['key' => 'scab', 'name' => 'Scab', 'shapes' => ['box', 'mask']]]]);
        $recipe = Recipe::fromArray($recipe, $codebook);
        $items = array_map(static fn (DatasetItem $item): DatasetItem => $recipe->prepare($item, $codebook), $items);
        $out = Samples::temporaryFolder().'/out';

        return [$out, Edition::write(new Dataset('Every shape', $codebook, static fn (): iterable => $items, static fn (): string => ''), $recipe, $codebook, $format, false, $out, [])];
    }

    public function test_no_class_that_was_left_out_is_named_by_a_format(): void
    {
        $item = self::item('row/a.png', Box::of(5, 5, 20, 20), Box::of(30, 30, 10, 10));
        [$coco] = self::release(Format::Coco, ['classes' => ['apple']], $item);
        $json = json_decode((string) file_get_contents("{$coco}/annotations/all.json"), true);
        self::assertSame([[['id' => 1, 'name' => 'Apple', 'supercategory' => '']], [1]], [$json['categories'], array_column($json['annotations'], 'category_id')]);
        [$yolo] = self::release(Format::Yolo, ['classes' => ['scab']], $item);
        self::assertStringContainsString("names:\n  0: Scab\n", (string) file_get_contents("{$yolo}/data.yaml"));
        self::assertStringStartsWith('0 ', (string) file_get_contents("{$yolo}/labels/all/row/a.txt"));
        self::assertStringNotContainsString('Leaf', (string) file_get_contents("{$yolo}/data.yaml"));
    }

    public function test_images_beside_pictures_have_no_name_twice(): void
    {
        $items = [self::item('row/a.png', Box::of(5, 5, 20, 20)), self::item('row/a.jpg', Box::of(30, 30, 10, 10)), self::item('row/b.JPEG', Box::of(30, 30, 10, 10))];
        [$masks] = self::release(Format::Masks, [], ...$items);
        foreach (['classes/row/a.png', 'classes/row/a.jpg.png', 'classes/row/b.JPEG.png'] as $file) {
            self::assertFileExists("{$masks}/{$file}");
        }
        self::assertSame([], glob("{$masks}/*/*/*.png.png"));
        [$panoptic] = self::release(Format::CocoPanoptic, [], self::item('row/a.png', Polygon::of([[1, 1, 30, 1, 20, 40]])));
        self::assertFileExists("{$panoptic}/panoptic_all/row/a.png");
    }

    /** 27.58 by adding what a hand has moved. */
    public function test_numbers_are_written_as_they_were_meant(): void
    {
        [$coco] = self::release(Format::Coco, [], self::item('a.png', Box::of(10.1 + 17.48, 0.1 + 0.2, 27.580000000000013, 5), Polygon::of([[1.1 + 2.2, 3, 40, 3, 20, 50.000000000000014]])));
        $text = (string) file_get_contents("{$coco}/annotations/all.json");
        self::assertDoesNotMatchRegularExpression('/\d\.\d{9,}/', $text);
        self::assertStringContainsString('[27.58,0.3,27.58,5', str_replace('.0,', ',', $text));
        [$csv] = self::release(Format::Csv, [], self::item('a.png', Box::of(10.1 + 17.48, 0.1 + 0.2, 27.580000000000013, 5)));
        self::assertStringContainsString(',27.58,0.3,27.58,5,', (string) file_get_contents("{$csv}/marks.csv"));
    }

    #[DataProvider('formats')]
    public function test_what_nobody_could_see_is_never_written(Format $format): void
    {
        [, $report] = self::release($format, [], self::item('a.png', Box::of(5, 5, 0, 20), Box::of(500, 5, 20, 20), Box::of(5, 5, 20, 20)));
        self::assertContains(['what' => 'marks of no size, or wholly outside their picture, were left out', 'count' => 2], $report['mapping']);
        self::assertLessThanOrEqual(1, $report['compared']['marks']);
    }

    public function test_what_differs_is_named_by_picture_class_and_number(): void
    {
        $codebook = Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']]]]);
        $item = new DatasetItem('row/a.png', self::WIDTH, self::HEIGHT, 'h', Labelled::Objects, [Mark::of(Samples::id(1), 'apple', Box::of(1, 1, 5, 5)), Mark::of(Samples::id(2), 'apple', Box::of(10, 10, 5.4, 5))]);
        $writer = new class($item) implements \Skeno\Core\Formats\DatasetWriter
        {
            public function __construct(private readonly DatasetItem $item)
            {
            }

            public function write(Dataset $dataset, \Skeno\Core\Formats\Folder $folder, bool $pictures): \Skeno\Core\Formats\MappingReport
            {
                return new \Skeno\Core\Formats\MappingReport;
            }

            public function hold(DatasetItem $item): array
            {
                return [new \Skeno\Core\Formats\Held($this->item->marks[1], Box::of(10, 10, 5, 5))];
            }

            public function tolerance(DatasetItem $item): float
            {
                return 0.01;
            }
        };
        $dataset = new Dataset('x', $codebook, static fn (): iterable => [$item], static fn (): string => '');
        $folder = new \Skeno\Core\Formats\Folder(Samples::temporaryFolder());
        Format::Yolo->writer($codebook)->write($dataset, $folder, false);
        $compared = (new ReadBack($dataset, Format::Yolo, $writer))->compare($folder);
        self::assertSame('row/a.png: Apple 2 (box) is off by 0.4000 px', $compared['differences'][0]);
    }
}
