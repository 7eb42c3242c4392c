<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Clip\ClipLimits;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Axis;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\Stretch;
use Skeno\Core\Release\ChosenFrames;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Clip\NumberedClip;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeySource;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Tracks\Thinning;

/** Tracks out into files and back in. */
final class ClipFormatsTest extends TestCase
{
    private const FRAMES = 40;

    /** Two tracks: one with a gap and hidden for a while, one of a polygon that stands still. */
    private static function clip(string $path = 'row/a.mp4', ?Axis $axis = null): DatasetItem
    {
        return new DatasetItem($path, 320, 180, str_repeat('a', 64), Labelled::Objects, [
            Mark::along(Samples::id(2), 'scab', [Key::of(5, Polygon::of([[10, 10, 40, 12, 30, 44]]))], Places::stretch(5, 30)),
            Mark::along(Samples::id(1), 'apple', [
                Key::of(0, Box::of(10, 20, 30, 40)),
                Key::of(10, Box::of(60, 20, 30, 60), ['ripeness' => Answer::of('ripe')]),
                Key::of(12, Box::of(70, 20, 30, 60), hidden: true),
                Key::of(14, Box::of(80.5, 20.25, 30, 60), source: KeySource::Followed, confidence: 0.5),
                Key::of(30, Box::of(100, 100, 20, 20)),
            ], Places::fromArray([[0, 19], [30, 39]])),
        ], axis: $axis ?? Axis::frames(self::FRAMES, 25));
    }

    public function test_mot_says_every_frame_in_the_words_of_the_benchmark(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $codebook = Samples::shapes();
        $report = Format::Mot->writer($codebook)->write(Samples::dataset([self::clip()], $codebook), $folder, false)->toArray();
        self::assertSame(['row/a/gt/gt.txt', 'row/a/gt/labels.txt', 'row/a/seqinfo.ini'], $folder->files());
        $lines = explode("\n", trim($folder->read('row/a/gt/gt.txt')));
        $apple = array_search('apple', array_keys($codebook->classes), true) + 1;
        $scab = array_search('scab', array_keys($codebook->classes), true) + 1;
        // by hand: frames and pixels from 1; a tenth of the way is 5 px further and 2 px higher
        self::assertSame("1,1,11,21,30,40,1,{$apple},1", $lines[0]);
        self::assertSame("2,1,16,21,30,42,1,{$apple},1", $lines[1]);
        self::assertSame("11,1,61,21,30,60,1,{$apple},1", $lines[10]);
        // hidden from its key to the next one, also in between
        self::assertSame("13,1,71,21,30,60,1,{$apple},0", $lines[12]);
        self::assertSame("14,1,76.25,21.125,30,60,1,{$apple},0", $lines[13]);
        self::assertSame("15,1,81.5,21.25,30,60,1,{$apple},1", $lines[14]);
        // to the end of its stretch as its last key has it, then not there
        self::assertSame("20,1,81.5,21.25,30,60,1,{$apple},1", $lines[19]);
        self::assertSame("31,1,101,101,20,20,1,{$apple},1", $lines[20]);
        self::assertSame("40,1,101,101,20,20,1,{$apple},1", $lines[29]);
        self::assertSame("6,2,11,11,30,34,1,{$scab},1", $lines[30]);
        self::assertCount(30 + 26, $lines);
        self::assertStringContainsString("frameRate=25\nseqLength=40\nimWidth=320\nimHeight=180\n", $folder->read('row/a/seqinfo.ini'));
        self::assertContains(['what' => 'tracks of polygons are held as the boxes around them', 'count' => 1], $report);
        self::assertContains(['what' => 'answers of tracks are not held', 'count' => 1], $report);
    }

    public function test_what_is_written_reads_back_and_damage_is_seen(): void
    {
        foreach ([Format::Mot, Format::Skeno] as $format) {
            $random = new Randomizer(new Xoshiro256StarStar(5));
            $codebook = Samples::shapes();
            $dataset = Samples::dataset([...self::random($random), self::clip()], $codebook);
            $folder = new Folder(Samples::temporaryFolder());
            $writer = $format->writer($codebook);
            $back = new ReadBack($dataset, $format, $writer);
            $writer->write($back->watched(), $folder, false);
            self::assertSame([], $back->compare($folder)['differences'], $format->value);
            $file = $format === Format::Mot ? 'row/a/gt/gt.txt' : 'dataset.json';
            $text = $folder->read($file);
            foreach ($format === Format::Mot ? ['11,1,61,21' => '11,1,61,22', "13,1,71,21,30,60,1,1,0\n" => "13,1,71,21,30,60,1,1,1\n", "40,1,101,101,20,20,1,1,1\n" => ''] : ['"place":14' => '"place":15', ',"hidden":true' => '', '[30,39]' => '[29,39]'] as $is => $becomes) {
                self::assertTrue(str_contains($text, (string) $is), "{$format->value}: {$is}");
                $folder->write($file, str_replace((string) $is, $becomes, $text));
                self::assertNotSame([], $back->compare($folder)['differences'], "{$format->value}: {$is}");
            }
        }
    }

    public function test_our_own_json_keeps_all_of_a_track(): void
    {
        $item = self::clip(axis: Axis::frames(3, 24.5, [0.0, 0.04, 0.1]));
        $again = DatasetItem::fromArray(json_decode((string) json_encode($item->toArray(), JSON_PRESERVE_ZERO_FRACTION), true), 'item');
        self::assertEquals($item->axis, $again->axis);
        self::assertSame($item->toArray(), $again->toArray());
        self::assertEquals($item->marks[1]->keys[3], $again->marks[1]->keys[3]);
        self::assertEqualsWithDelta(0.1, $item->axis?->seconds(2), 1e-9);
    }

    public function test_what_came_in_frame_by_frame_is_kept_as_the_keys_that_say_the_same(): void
    {
        $codebook = Samples::shapes();
        $folder = new Folder(Samples::temporaryFolder());
        Format::Mot->writer($codebook)->write(Samples::dataset([self::clip()], $codebook), $folder, false);
        $read = self::read($folder, [self::clip()])[0];
        self::assertInstanceOf(ReadLabels::class, $read);
        $apple = $read->marks[0];
        self::assertCount(30, $apple->keys);
        $few = $apple->through($apple->place, $apple->there, Thinning::same($apple->keys));
        self::assertSame([0, 10, 11, 12, 13, 14, 19, 30, 39], array_map(static fn (Key $key): int => $key->place, $few->keys));
        self::assertSame([[0, 19], [30, 39]], $few->there?->toArray());
        $true = self::clip()->marks[1]->track();
        foreach ($few->track()->shapes(0, 39) as $place => $shape) {
            self::assertEqualsWithDelta($true->shape($place)?->toArray(), $shape->toArray(), 0.002, "frame {$place}");
            self::assertSame($true->isHidden($place), $few->track()->isHidden($place));
        }
    }

    public function test_lines_that_can_not_be_are_left_out_by_name_and_reason(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $folder->write('row/a/gt/gt.txt', implode("\n", ['1,1,11,21,30,40,1,1,1', '0,1,1,1,3,3,1,1,1', '41,1,1,1,3,3,1,1,1', '1.5,1,1,1,3,3,1,1,1', '2,1,1,1,0,3,1,1,1', '2,1,x,1,3,3,1,1,1', '2,1', '3,1,1,1,3,3,1,99,1', '3,1,1,1,3,3,1,2,1', '1,1,1,1,3,3,1,1,1', '2,2,nan,1,3,3,1,1,1', '2,7,1e300,1,1e308,3,1,1,1']));
        $folder->write('other/gt/gt.txt', '1,1,1,1,3,3,1,1,1');
        $folder->write('row/p/gt/gt.txt', '1,1,1,1,3,3,1,1,1');
        $picture = new DatasetItem('row/p.png', 9, 9, 'h', Labelled::Nothing, []);
        $skipped = $marks = [];
        foreach (self::read($folder, [self::clip(), $picture]) as $read) {
            if ($read instanceof Skipped) {
                $skipped[] = "{$read->file} {$read->place}";
            } elseif ($read instanceof ReadLabels) {
                array_push($marks, ...$read->marks);
            }
        }
        self::assertSame(['other/gt/gt.txt the whole file', ...array_map(static fn (int $n): string => "row/a/gt/gt.txt line {$n}", range(2, 11)), 'row/p/gt/gt.txt the whole file'], array_values(array_diff($skipped, ['row/a/gt/gt.txt line 12'])));
        self::assertSame([[0, 0]], $marks[0]->there?->toArray());
        $this->expectException(UnreadableLabels::class);
        self::read(new Folder(Samples::temporaryFolder()), [self::clip()]);
    }

    public function test_a_list_of_labels_beside_it_says_what_the_numbers_mean(): void
    {
        $folder = new Folder(Samples::temporaryFolder());
        $folder->write('row/a/gt/gt.txt', "1,4,11,21,30,40,1,2,1\n1,9,1,1,3,3,1,1,1\n1,10,1,1,3,3,1,3,1\n");
        $folder->write('row/a/gt/labels.txt', "Leaf scab\napple\nno such thing\n");
        $read = self::read($folder, [self::clip()]);
        self::assertSame(['the codebook has no class "no such thing"'], array_values(array_map(static fn (Skipped $one): string => $one->reason, array_filter($read, static fn (object $one): bool => $one instanceof Skipped))));
        $marks = array_values(array_filter($read, static fn (object $one): bool => $one instanceof ReadLabels))[0]->marks;
        self::assertSame(['apple', 'scab'], array_map(static fn (Mark $mark): string => $mark->class, $marks));
    }

    public function test_no_damage_makes_the_reader_stumble(): void
    {
        $codebook = Samples::shapes();
        $folder = new Folder(Samples::temporaryFolder());
        Format::Mot->writer($codebook)->write(Samples::dataset([self::clip()], $codebook), $folder, false);
        $text = $folder->read('row/a/gt/gt.txt');
        $random = new Randomizer(new Xoshiro256StarStar(7));
        $taken = 0;
        for ($i = 0; $i < 300; $i++) {
            $bad = $text;
            for ($n = $random->getInt(1, 6); $n > 0; $n--) {
                $at = $random->getInt(0, strlen($bad) - 1);
                $bad = substr_replace($bad, [$random->getBytes(1), '', ',', '-', "\0", '9e999'][$random->getInt(0, 5)], $at, 1);
            }
            $folder->write('row/a/gt/gt.txt', $bad);
            foreach (self::read($folder, [self::clip()]) as $read) {
                if ($read instanceof ReadLabels) {
                    foreach ($read->marks as $mark) {
                        $taken++;
                        self::assertLessThan(self::FRAMES, $mark->there?->last());
                        foreach ($mark->keys as $key) {
                            self::assertInstanceOf(Box::class, $key->geometry);
                            self::assertTrue(is_finite($key->geometry->x + $key->geometry->width));
                        }
                    }
                }
            }
        }
        self::assertGreaterThan(100, $taken);
    }

    public function test_chosen_frames_are_pictures_with_what_is_there(): void
    {
        $item = self::clip();
        $axis = $item->axis ?? self::fail();
        self::assertSame([0, 5, 10, 12, 14, 30], ChosenFrames::keys()->of($item, $axis->places));
        self::assertSame([0, 16, 32], ChosenFrames::parse('every:16')->of($item, $axis->places));
        self::assertSame([3, 39], ChosenFrames::parse('list:39,3,3,40,900')->of($item, $axis->places));
        self::assertCount(40, ChosenFrames::parse('all')->of($item, $axis->places));
        foreach (['', 'every:0', 'every:', 'list:', 'list:1,', 'list:a', 'some', 'all '] as $wrong) {
            try {
                ChosenFrames::parse($wrong);
                self::fail("taken: \"{$wrong}\"");
            } catch (InvalidValue) {
                self::addToAssertionCount(1);
            }
        }
        $codebook = Samples::shapes();
        $pictures = iterator_to_array(ChosenFrames::parse('list:1,13,25')->pictures(Samples::dataset([$item], $codebook), static fn () => static fn (): string => '')->items(), false);
        self::assertSame(['row/a/000001.png', 'row/a/000013.png', 'row/a/000025.png'], array_map(static fn (DatasetItem $one): string => $one->path, $pictures));
        self::assertSame([['apple'], ['scab', 'apple'], ['scab']], array_map(static fn (DatasetItem $one): array => array_map(static fn (Mark $mark): string => $mark->class, $one->marks), $pictures));
        // between its keys, hidden, with the answer that holds there
        $apple = $pictures[1]->marks[1];
        self::assertEquals(Box::of(75.25, 20.125, 30, 60), $apple->geometry);
        self::assertSame(['hidden'], array_map(static fn ($flag): string => $flag->value, $apple->flags));
        self::assertSame('ripe', $apple->answers['ripeness']->value);
        self::assertArrayNotHasKey('ripeness', $pictures[0]->marks[0]->answers);
        self::assertSame(3, count(array_unique(array_map(static fn (DatasetItem $one): string => $one->hash, $pictures))));
    }

    public function test_pictures_of_chosen_frames_are_those_frames(): void
    {
        $folder = Samples::temporaryFolder();
        NumberedClip::write("{$folder}/a.webm", self::FRAMES, ['-c:v', 'libvpx', '-b:v', '1M', '-deadline', 'realtime']);
        $codebook = Samples::shapes();
        $dataset = new Dataset('clips', $codebook, static fn (): array => [self::clip('row/a.webm')], static fn (): string => "{$folder}/a.webm");
        $report = Edition::write($dataset, Recipe::fromArray([], $codebook), $codebook, Format::Coco, true, "{$folder}/coco", [], frames: ChosenFrames::parse('list:2,13,38'), limits: new ClipLimits);
        self::assertSame(3, $report['compared']['items']);
        $coco = json_decode((string) file_get_contents((string) current(glob("{$folder}/coco/*.json") ?: glob("{$folder}/coco/*/*.json") ?: [])), true);
        self::assertIsArray($coco);
        foreach ([2, 13, 38] as $frame) {
            $found = array_values(array_filter((new Folder("{$folder}/coco"))->files(), static fn (string $file): bool => str_ends_with($file, sprintf('row/a/%06d.png', $frame))));
            self::assertSame($frame, NumberedClip::read("{$folder}/coco/{$found[0]}"));
        }
        self::assertSame([], glob("{$folder}/*.frames-*"));
    }

    public function test_what_is_said_along_a_clip_stands_in_a_table_with_frames_and_times(): void
    {
        $codebook = Samples::shapes();
        $clip = self::clip(axis: Axis::frames(self::FRAMES, 20));
        $said = ItemAnswers::of([], [], [Stretch::tag('wet', 10, 19), Stretch::answer('usable', Answer::of(true), 0, 39)]);
        $item = new DatasetItem($clip->path, $clip->width, $clip->height, $clip->hash, $clip->labelled, $clip->marks, said: $said, axis: $clip->axis);
        $folder = Samples::temporaryFolder();
        Edition::write(Samples::dataset([$item], $codebook), Recipe::fromArray([], $codebook), $codebook, Format::Csv, false, "{$folder}/csv", []);
        $lines = file("{$folder}/csv/stretches.csv", FILE_IGNORE_NEW_LINES) ?: [];
        self::assertSame(['path,kind,key,name,answer,first,last,from_seconds,to_seconds', 'row/a.mp4,answer,usable,Usable picture,yes,0,39,0,2', 'row/a.mp4,tag,wet,Wet leaves,,10,19,0.5,1'], array_map(trim(...), $lines));
        // our own JSON keeps them
        self::assertEquals($said, DatasetItem::fromArray(json_decode((string) json_encode($item->toArray()), true), 'item')->said);
    }

    /** @return list<DatasetItem> in byte order of their paths */
    private static function random(Randomizer $random): array
    {
        $items = [];
        for ($i = 0; $i < 4; $i++) {
            $marks = [];
            for ($m = 0; $m < 6; $m++) {
                $first = $random->getInt(0, 20);
                $last = $random->getInt($first, self::FRAMES - 1);
                $keys = [];
                foreach (array_unique([$first, ...array_map(static fn (): int => $random->getInt($first, $last), range(0, 3))]) as $place) {
                    $keys[] = Key::of($place, Box::of($random->getInt(0, 2000) / 10, $random->getInt(0, 1000) / 7, 1 + $random->getInt(0, 300) / 3, 1 + $random->getInt(0, 100) / 9), hidden: $random->getInt(0, 3) === 0);
                }
                usort($keys, static fn (Key $a, Key $b): int => $a->place <=> $b->place);
                $marks[] = Mark::along(Samples::id(100 * $i + $m + 10), $random->getInt(0, 1) === 0 ? 'apple' : 'scab', $keys, Places::stretch($first, $last));
            }
            $items[] = new DatasetItem("aisle/c{$i}.mp4", 320, 180, hash('sha256', (string) $i), Labelled::Objects, $marks, axis: Axis::frames(self::FRAMES, 24));
        }

        return $items;
    }

    /**
     * @param  list<DatasetItem>  $items
     * @return list<object>
     */
    private static function read(Folder $folder, array $items): array
    {
        $known = new KnownPictures(array_map(static fn (DatasetItem $item, int $i): KnownPicture => new KnownPicture($i, $item->path, $item->width, $item->height, $item->axis?->places), $items, array_keys($items)));

        return iterator_to_array(Format::Mot->reader(Samples::shapes(), Samples::ids())->read($folder->root, $known), false);
    }

    /**
     * @param  array<string, mixed>  $coco
     * @return list<ReadLabels|Skipped|Notice>
     */
    private static function coco(array $coco, ?Codebook $codebook = null, string $clip = 'row/a.mp4'): array
    {
        $file = Samples::temporaryFolder().'/frames.json';
        file_put_contents($file, json_encode($coco + ['categories' => [['id' => 1, 'name' => 'apple'], ['id' => 2, 'name' => 'scab']]]));
        $known = new KnownPictures([new KnownPicture(7, $clip, 320, 180, self::FRAMES), new KnownPicture(8, 'row/still.png', 320, 180)]);

        return iterator_to_array(Format::Coco->reader($codebook ?? Samples::shapes(), Samples::ids())->read($file, $known), false);
    }

    public function test_frames_of_clips_come_back_in_as_tracks(): void
    {
        $codebook = Samples::shapes();
        foreach (['all', 'keys'] as $frames) {
            $folder = new Folder(Samples::temporaryFolder());
            $pictures = ChosenFrames::parse($frames)->pictures(Samples::dataset([self::clip()], $codebook), static fn (): \Closure => static fn (): string => '');
            Format::Coco->writer($codebook)->write($pictures, $folder, false);
            $known = new KnownPictures([new KnownPicture(7, 'row/a.mp4', 320, 180, self::FRAMES)]);
            $read = iterator_to_array(Format::Coco->reader($codebook, Samples::ids())->read($folder->root, $known), false);
            self::assertSame([ReadLabels::class, 7, 2], [$read[0]::class, $read[0]->picture->id, count($read[0]->marks)], "{$frames}: all of the clip at once, nothing left out");
            self::assertCount(1, $read);
            foreach ($read[0]->marks as $mark) {
                $is = array_values(array_filter(self::clip()->marks, static fn (Mark $one): bool => $one->class === $mark->class))[0];
                $listed = ChosenFrames::parse($frames)->of(self::clip(), self::FRAMES);
                foreach ($listed as $place) {
                    $shape = $is->track()->shape($place);
                    $back = $mark->track()->shape($place);
                    self::assertSame($shape === null, $back === null, "{$frames}: {$mark->class} at {$place}");
                    self::assertEqualsWithDelta($shape?->toArray(), $back?->toArray(), 0.001, "{$frames}: {$mark->class} at {$place}");
                    self::assertSame($is->track()->isHidden($place), $mark->track()->isHidden($place));
                }
            }
            if ($frames === 'all') {
                self::assertSame([[[0, 19], [30, 39]], [[5, 30]]], array_map(static fn (Mark $mark): ?array => $mark->there?->toArray(), $read[0]->marks));
            }
        }
    }

    public function test_what_a_file_says_of_frames_is_taken_as_it_says_it(): void
    {
        $image = static fn (int $id, string $name): array => ['id' => $id, 'file_name' => $name, 'width' => 320, 'height' => 180];
        $box = static fn (int $id, int $image, int $x, array $more = []): array => $more + ['id' => $id, 'image_id' => $image, 'category_id' => 1, 'bbox' => [$x, 10, 20, 20]];
        $read = self::coco([
            'images' => [$image(1, 'row/a/000000.png'), $image(2, 'export/row/a/000010.jpg'), $image(3, 'row/a/000020.png'), $image(4, 'row/a/30.png'), $image(5, 'row/still.png'), $image(6, 'row/a/000040.png'), $image(9, 'other/000001.png')],
            'annotations' => [
                // out of order, by either name of a track; away on a frame that is listed
                $box(11, 3, 60, ['track_id' => 5]), $box(12, 1, 0, ['track_id' => 5]), $box(13, 2, 30, ['instance_id' => 5]),
                $box(14, 1, 100, ['attributes' => ['track_id' => 'x', 'ripeness' => 'ripe']]), $box(15, 4, 130, ['attributes' => ['track_id' => 'x', 'ripeness' => 'green']]),
                // no track: an object of one frame; and one on a picture
                $box(16, 2, 200), $box(17, 5, 10),
                // what can't be
                $box(18, 1, 3, ['track_id' => 5]), $box(19, 4, 3, ['track_id' => 5, 'category_id' => 2]), $box(20, 6, 3, ['track_id' => 5]), $box(21, 9, 3),
            ],
        ]);
        $labels = array_values(array_filter($read, static fn (object $one): bool => $one instanceof ReadLabels));
        self::assertSame([8, 7], array_map(static fn (ReadLabels $one): int => $one->picture->id, $labels));
        $tracks = array_map(static fn (Mark $mark): array => [array_map(static fn (Key $key): int => $key->place, $mark->keys), $mark->there?->toArray()], $labels[1]->marks);
        self::assertSame([[[0, 10, 20], [[0, 20]]], [[0, 30], [[0, 0], [30, 30]]], [[10], [[10, 10]]]], $tracks);
        self::assertEqualsWithDelta(45.0, $labels[1]->marks[0]->track()->shape(15)?->bounds()->x, 1e-9, 'between frames that are listed it is worked out');
        self::assertSame('ripe', $labels[1]->marks[1]->answers['ripeness']->value);
        self::assertContains('answers that change along a track but may not stay as they were first', array_map(static fn (object $one): string => $one instanceof Notice ? $one->what : '', $read));
        $skipped = implode("\n", array_map(static fn (object $one): string => $one instanceof Skipped ? "{$one->place}: {$one->reason}" : '', $read));
        self::assertStringContainsString('(id 18)', $skipped);
        self::assertStringContainsString('it is on frame 0 already', $skipped);
        self::assertStringContainsString('of one class and shape', $skipped);
        self::assertStringContainsString('"row/a/000040.png" is not in the project', $skipped, 'a frame the clip has not');
        self::assertStringContainsString('"other/000001.png"', $skipped);
        // frames without anything on them say that nothing is there
        $empty = self::coco(['images' => [$image(1, 'row/a/000000.png')], 'annotations' => []]);
        self::assertSame([Labelled::Nothing, 7], [$empty[0]->labelled, $empty[0]->picture->id]);
        // what varies is said where it changes
        $document = Samples::document();
        $document['attributes'] = array_map(static fn (array $one): array => $one['key'] === 'ripeness' ? $one + ['varies' => true] : $one, $document['attributes']);
        $varying = self::coco(['images' => [$image(1, 'row/a/0.png'), $image(2, 'row/a/1.png'), $image(3, 'row/a/2.png')], 'annotations' => array_map(static fn (int $i, string $answer): array => $box($i, $i, 10, ['track_id' => 1, 'attributes' => ['ripeness' => $answer]]), [1, 2, 3], ['green', 'green', 'ripe'])], Codebook::fromArray($document));
        self::assertSame([['ripeness' => 'green'], [], ['ripeness' => 'ripe']], array_map(static fn (Key $key): array => array_map(static fn (Answer $answer): mixed => $answer->value, $key->answers), $varying[0]->marks[0]->keys));
    }
}
