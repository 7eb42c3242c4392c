<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookReader;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\Stretch;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\ReadBack;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Places;

/** Marks and answers on the pages of documents: what the check says of them, and how they go out and come back. */
final class DocumentFormatsTest extends TestCase
{
    private const PAGES = [[600, 800], [840, 420], [600, 800]];

    private static function codebook(): Codebook
    {
        return CodebookReader::read([
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'weight', 'name' => 'Weight line', 'shapes' => ['box'], 'attributes' => ['written', 'legible']],
                ['key' => 'signature', 'name' => 'Signature', 'shapes' => ['polygon', 'mask', 'box'], 'part_of' => ['signature']],
            ],
            'attributes' => [
                ['key' => 'written', 'name' => 'What is written', 'type' => 'text', 'scope' => 'object', 'required' => true, 'reads' => true],
                ['key' => 'legible', 'name' => 'Legible', 'type' => 'yesno', 'scope' => 'object'],
                ['key' => 'page_kind', 'name' => 'Kind of page', 'type' => 'one', 'scope' => 'page', 'required' => true, 'options' => [['key' => 'front', 'name' => 'Front'], ['key' => 'lines', 'name' => 'Lines']]],
                ['key' => 'lines', 'name' => 'How many lines', 'type' => 'number', 'scope' => 'page', 'required' => true, 'when' => [['attribute' => 'page_kind', 'any' => ['lines']]]],
                ['key' => 'complete', 'name' => 'Complete', 'type' => 'yesno', 'scope' => 'item'],
            ],
            'tags' => [['key' => 'stained', 'name' => 'Stained', 'scope' => 'page', 'group' => 'state'], ['key' => 'clean', 'name' => 'Clean', 'scope' => 'page', 'group' => 'state'], ['key' => 'late', 'name' => 'Late']],
            'relations' => [['key' => 'signs', 'name' => 'Signs', 'from' => ['signature'], 'to' => ['weight']]],
        ]);
    }

    private static function kind(string $kind, int $page): Stretch
    {
        return Stretch::answer('page_kind', Answer::of($kind), $page, $page);
    }

    private static function document(string $path = 'bins/17.pdf'): DatasetItem
    {
        $mask = ScanConversion::mask([[10, 10, 60, 10, 60, 40, 10, 40]], 840, 420);

        return new DatasetItem($path, 600, 800, str_repeat('a', 64), Labelled::Objects, [
            Mark::of(Samples::id(1), 'weight', Box::of(10.5, 20, 100, 30), ['written' => Answer::of("412 kg\n\"net\""), 'legible' => Answer::of(true)])->on(0),
            Mark::of(Samples::id(2), 'weight', Box::of(10.5, 20, 100, 30), ['written' => Answer::of('9 kg')])->on(2),
            Mark::of(Samples::id(3), 'signature', Polygon::of([[400, 300, 800, 300, 700, 400]]))->on(1),
            Mark::of(Samples::id(4), 'signature', $mask, partOf: Samples::id(3))->on(1),
        ], said: ItemAnswers::of(['complete' => Answer::of(true)], ['late'], [self::kind('front', 0), self::kind('lines', 1), Stretch::answer('lines', Answer::of(12), 1, 1), self::kind('front', 2), Stretch::tag('stained', 1, 1), Stretch::tag('stained', 2, 2)]), sheets: Sheets::of(self::PAGES), resolution: 150);
    }

    /**
     * @param  list<Mark>  $marks
     * @return list<string>
     */
    private static function said(array $marks, ?ItemAnswers $said = null): array
    {
        return array_map(static fn (Finding $finding): string => $finding->message, (new MarkCheck(self::codebook()))->item($marks, Extent::pages(Sheets::of(self::PAGES)), $said));
    }

    public function test_a_required_answer_missing_on_one_page_is_found_with_that_page(): void
    {
        $document = self::document();
        self::assertSame([], self::said($document->marks, $document->said));
        self::assertSame(['Kind of page is not answered, on page 1 and 2 more'], self::said($document->marks, ItemAnswers::none()));
        $said = ItemAnswers::of([], [], [self::kind('front', 0), self::kind('lines', 2)]);
        $findings = (new MarkCheck(self::codebook()))->item($document->marks, $document->extent(), $said);
        self::assertSame(['Kind of page is not answered, on page 2', 'How many lines is not answered, on page 3'], array_map(static fn (Finding $finding): string => $finding->message, $findings));
        self::assertSame([[1, 'page_kind', true], [2, 'lines', true]], array_map(static fn (Finding $finding): array => [$finding->place, $finding->attribute, $finding->stops], $findings));
        // an answer nobody asks for on that page, tags that exclude each other, tags nobody knows
        self::assertSame(
            ['Clean and Stained exclude each other, on page 1', 'the page has no question "complete", on page 3', 'the codebook has no tag "wet", on page 3'],
            self::said($document->marks, ItemAnswers::of([], [], [self::kind('front', 0), self::kind('front', 1), self::kind('front', 2), Stretch::tag('stained', 0, 1), Stretch::tag('clean', 0, 0), Stretch::tag('wet', 2, 2), Stretch::answer('complete', Answer::of(true), 2, 2)])),
        );
    }

    public function test_a_mark_is_checked_by_the_size_of_its_own_page(): void
    {
        $ask = ItemAnswers::of([], [], [self::kind('front', 0), self::kind('front', 1), self::kind('front', 2)]);
        $at = static fn (int $page, float $y): Mark => Mark::of(Samples::id(1), 'signature', Box::of(620, $y, 100, 30))->on($page);
        self::assertSame([], self::said([$at(1, 100)], $ask));
        self::assertSame(['Signature 1 (page 1): the box lies outside the page'], self::said([$at(0, 100)], $ask));
        self::assertSame(['Signature 1 (page 2): the box reaches 10 px past the edge of the page'], self::said([$at(1, 400)], $ask));
        // the same box twice is a doubt on one page, and none on two
        $box = static fn (int $n, int $page): Mark => Mark::of(Samples::id($n), 'signature', Box::of(20, 20, 100, 30))->on($page);
        self::assertSame([], self::said([$box(1, 0), $box(2, 1)], $ask));
        self::assertSame(['two boxes of Signature nearly coincide (IoU 1.00)'], self::said([$box(1, 2), $box(2, 2)], $ask));
    }

    public function test_what_can_not_be_kept_on_a_page_is_refused(): void
    {
        $check = new MarkCheck(self::codebook());
        $on = Extent::pages(Sheets::of(self::PAGES));
        $box = Mark::of(Samples::id(1), 'signature', Box::of(20, 20, 100, 30));
        $check->admit($box->on(2), $on);
        $check->admit(Mark::of(Samples::id(3), 'signature', ScanConversion::mask([[1, 1, 9, 1, 9, 9]], 840, 420))->on(1), $on);
        $check->admit(Mark::of(Samples::id(4), 'signs', Join::of(Samples::id(1), Samples::id(2))), $on);
        $bad = [
            'data.place' => [$box, $box->on(3), Mark::of(Samples::id(4), 'signs', Join::of(Samples::id(1), Samples::id(2)))->on(1)],
            'data.stretches' => [$box->through(1, Places::stretch(1, 2), [])],
            'data.geometry.size' => [Mark::of(Samples::id(3), 'signature', ScanConversion::mask([[1, 1, 9, 1, 9, 9]], 840, 420))->on(0)],
        ];
        foreach ($bad as $path => $marks) {
            foreach ($marks as $mark) {
                try {
                    $check->admit($mark, $on);
                    self::fail("{$path} was kept");
                } catch (InvalidValue $e) {
                    self::assertStringContainsString($path, $e->getMessage());
                }
            }
        }
        // and a page is nothing a picture has
        $this->expectExceptionMessage('no axis');
        $check->admit($box->on(0), Extent::plane(600, 800));
    }

    public function test_only_a_text_of_objects_is_what_is_written_under_them(): void
    {
        $this->expectException(InvalidCodebook::class);
        $this->expectExceptionMessage('attributes[0].reads');
        CodebookReader::read(['skeno' => 'codebook/1', 'classes' => [], 'attributes' => [['key' => 'a', 'name' => 'A', 'type' => 'text', 'scope' => 'page', 'reads' => true]]]);
    }

    public function test_whole_documents_read_back_and_damage_is_seen(): void
    {
        $codebook = self::codebook();
        foreach ([Format::Jsonl, Format::Skeno] as $format) {
            $second = self::document('bins/18.tif');
            $dataset = Samples::dataset([self::document(), $second], $codebook);
            $folder = new Folder(Samples::temporaryFolder());
            $writer = $format->writer($codebook);
            $back = new ReadBack($dataset, $format, $writer);
            $writer->write($back->watched(), $folder, false);
            self::assertSame(['marks' => 8, 'items' => 2, 'differences' => []], $back->compare($folder), $format->value);
            $file = $format === Format::Jsonl ? 'documents.jsonl' : 'dataset.json';
            $text = $folder->read($file);
            foreach ($format === Format::Jsonl ? ['"page":2,"selector"' => '"page":1,"selector"', 'xywh=10.5,20,100,30' => 'xywh=10.5,21,100,30', '"width":840' => '"width":841'] : ['"place":2' => '"place":1', '10.5' => '11.5'] as $is => $becomes) {
                self::assertStringContainsString($is, $text, $format->value);
                $folder->write($file, str_replace($is, $becomes, $text));
                self::assertNotSame([], $back->compare($folder)['differences'], "{$format->value}: {$is}");
            }
        }
    }

    public function test_jsonl_says_text_box_page_and_what_is_said_of_pages(): void
    {
        $codebook = self::codebook();
        $folder = new Folder(Samples::temporaryFolder());
        $document = self::document();
        $with = $document->withMarks([...$document->marks, Mark::of(Samples::id(5), 'signs', Join::of(Samples::id(3), Samples::id(1)))]);
        $report = Format::Jsonl->writer($codebook)->write(Samples::dataset([$with], $codebook), $folder, false)->toArray();
        self::assertSame([['what' => 'relations between marks on pages can not be said in this format', 'count' => 1]], $report);
        $line = json_decode(trim($folder->read('documents.jsonl')), true);
        self::assertSame(['bins/17.pdf', 150], [$line['id'], $line['resolution']]);
        self::assertSame(['page' => 1, 'width' => 840, 'height' => 420, 'answers' => ['lines' => ['value' => 12], 'page_kind' => ['value' => 'lines']], 'tags' => ['stained']], $line['pages'][1]);
        $first = $line['annotations'][0];
        self::assertSame(["412 kg\n\"net\"", 0, 'xywh=10.5,20,100,30'], [$first['text'], $first['target']['page'], $first['target']['selector']['value']]);
        self::assertSame('polygon', $line['annotations'][2]['shape']['kind']);

        $validator = new \Opis\JsonSchema\Validator;
        $validator->parser()->setDefaultDraftVersion('2020-12');
        self::assertTrue($validator->validate(json_decode(trim($folder->read('documents.jsonl'))), (string) file_get_contents(dirname(__DIR__, 3).'/docs/document.schema.json'))->isValid());

        // read again: the same marks, answers and what is said of the pages; a text by another hand becomes the answer
        $known = new KnownPicture(7, 'bins/17.pdf', 600, 800, 3, null, Sheets::of(self::PAGES));
        $n = 0;
        $read = static function (string $text) use ($codebook, $known, $folder, &$n): array {
            $folder->write('documents.jsonl', $text);

            return iterator_to_array(Format::Jsonl->reader($codebook, static function () use (&$n): string {
                return Samples::id(100 + ++$n);
            })->read($folder->root, new KnownPictures([$known])), false);
        };
        [$labels] = $read((string) json_encode($line));
        self::assertInstanceOf(ReadLabels::class, $labels);
        self::assertEquals($document->said, $labels->said);
        self::assertSame([0, 2, 1, 1], array_map(static fn (Mark $mark): ?int => $mark->place, $labels->marks));
        self::assertSame($labels->marks[2]->id, $labels->marks[3]->partOf);
        self::assertEquals($document->marks[0]->answers, $labels->marks[0]->answers);
        [$labels] = $read('{"id":"17.pdf","pages":'.json_encode($line['pages']).',"annotations":[{"body":"Weight line","target":{"page":2,"selector":{"value":"xywh=1,2,3,4"}},"text":"88 kg"}]}');
        self::assertInstanceOf(ReadLabels::class, $labels);
        self::assertEquals(['written' => Answer::of('88 kg')], $labels->marks[0]->answers);

        // hostile lines: each is skipped by its reason, and the others are taken
        $skipped = $read(implode("\n", ['[1,2', '7', '{"id":"bins/99.pdf"}', '{"id":"17.pdf","pages":[]}', '{"id":"17.pdf","pages":'.json_encode($line['pages']).',"annotations":[{"body":"weight","target":{"page":3,"selector":{"value":"xywh=1,2,3,4"}}},{"body":"nobody","target":{}},{"body":"weight","target":{"page":0,"selector":{"value":"xywh=1,2,-3,4"}}},7]}']));
        self::assertSame(9, count($skipped));
        self::assertSame(8, count(array_filter($skipped, static fn (object $one): bool => $one instanceof Skipped)));
        self::assertStringContainsString('3 pages, as the document has', $skipped[3]->reason);
    }

    /** @return list<Format> that hold pages as pictures */
    private static function pictures(): array
    {
        return [Format::Coco, Format::Voc, Format::Yolo, Format::Csv, Format::Masks, Format::YoloSegments, Format::CocoPanoptic];
    }

    public function test_the_pages_of_a_document_are_pictures_with_their_index_in_every_other_format(): void
    {
        $codebook = self::codebook();
        $drawn = Samples::temporaryFolder();
        foreach (self::pictures() as $format) {
            $asked = [];
            $target = Samples::temporaryFolder().'/out';
            $done = Edition::write(Samples::dataset([self::document()], $codebook), Recipe::fromArray([], $codebook), $codebook, $format, true, $target, [], YoloLayout::Folders, null, null, static function (DatasetItem $item, int $place) use (&$asked, $drawn): string {
                $asked[] = "{$item->path} {$place}";
                file_put_contents("{$drawn}/{$place}.jpg", "page {$place}");

                return "{$drawn}/{$place}.jpg";
            });
            self::assertSame([], $done['compared']['differences'], $format->value);
            self::assertSame(3, $done['compared']['items'], $format->value);
            $files = (new Folder($target))->files();
            $pictures = array_values(array_filter($files, static fn (string $file): bool => str_ends_with($file, '.jpg')));
            self::assertCount(3, $pictures, $format->value);
            foreach ($pictures as $place => $picture) {
                self::assertStringEndsWith(sprintf('bins/17/%04d.jpg', $place), $picture, $format->value);
                self::assertSame("page {$place}", file_get_contents("{$target}/{$picture}"), $format->value);
            }
            self::assertSame(['bins/17.pdf 0', 'bins/17.pdf 1', 'bins/17.pdf 2'], array_values(array_unique($asked)), $format->value);
        }
    }

    public function test_coco_csv_yolo_and_voc_say_the_page(): void
    {
        $codebook = self::codebook();
        $write = static function (Format $format) use ($codebook): Folder {
            $target = Samples::temporaryFolder().'/out';
            Edition::write(Samples::dataset([self::document()], $codebook), Recipe::fromArray([], $codebook), $codebook, $format, false, $target, []);

            return new Folder($target);
        };
        $coco = json_decode($write(Format::Coco)->read('annotations/all.json'), true);
        self::assertSame([['bins/17/0000.jpg', 0, 600], ['bins/17/0001.jpg', 1, 840], ['bins/17/0002.jpg', 2, 600]], array_map(static fn (array $image): array => [$image['file_name'], $image['page_index'], $image['width']], $coco['images']));
        self::assertSame(['complete' => true, 'lines' => 12, 'page_kind' => 'lines'], $coco['images'][1]['attributes']);
        self::assertSame(['late', 'stained'], $coco['images'][2]['tags']);
        self::assertSame([1, 2, 2, 3], array_column($coco['annotations'], 'image_id'));
        self::assertSame("412 kg\n\"net\"", $coco['annotations'][0]['attributes']['written']);
        $csv = $write(Format::Csv);
        self::assertStringContainsString('bins/17/0002.jpg,'.Samples::id(2).',weight', $csv->read('marks.csv'));
        $items = explode("\n", $csv->read('items.csv'));
        self::assertStringContainsString('complete,page_kind,lines', $items[0]);
        self::assertStringContainsString('late stained,yes,lines,12', $items[2]);
        self::assertContains('Annotations/bins/17/0001.xml', $write(Format::Voc)->files());
        self::assertContains('labels/all/bins/17/0002.txt', $write(Format::Yolo)->files());
    }
}
