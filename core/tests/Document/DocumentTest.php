<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Document;

use Closure;
use Imagick;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Document\DocumentLimits;
use Skeno\Core\Document\PageWords;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Document\Reading;
use Skeno\Core\Document\RefusedDocument;
use Skeno\Core\Document\TiffPages;
use Skeno\Core\Document\Word;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Sheets;
use Symfony\Component\Process\Process;

final class DocumentTest extends TestCase
{
    private string $folder = '';

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/papers-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    protected function tearDown(): void
    {
        array_map(unlink(...), glob("{$this->folder}/*") ?: []);
        rmdir($this->folder);
    }

    /** @return array<int, PageWords> by place */
    private static function wordsOf(Pdf $pdf): array
    {
        $all = [];
        Pdf::words($pdf->file, $pdf->resolution, new DocumentLimits, static function (int $place, PageWords $words) use (&$all): void {
            $all[$place] = $words;
        });

        return $all;
    }

    public function test_pages_of_any_size_are_measured_drawn_and_their_words_are_where_they_are_seen(): void
    {
        $file = Papers::pdf("{$this->folder}/a.pdf", [[300, 400, [[50, 100, 'Bin 17'], [50, 130, 'Weight 412 kg']]], [420, 210, [[200, 100, 'Signed']]], [300, 400, []]]);
        $pdf = Pdf::open($file, 144, new DocumentLimits);
        self::assertSame([[600, 800, 1], [840, 420, 1], [600, 800, 1]], $pdf->sheets->toArray());
        $words = self::wordsOf($pdf);
        self::assertSame([0, 1, 2], array_keys($words));
        self::assertSame("Bin 17\nWeight 412 kg", $words[0]->text());
        self::assertSame('Signed', $words[1]->text());
        self::assertTrue($words[2]->isEmpty());
        // one page by itself is what it is among all
        foreach ([0, 1, 2] as $place) {
            self::assertEquals($words[$place], Pdf::wordsOf($file, $place, 144, new DocumentLimits));
        }
        self::assertNull($words[0]->confidence());

        foreach ([0, 1] as $place) {
            [$width, $height] = $pdf->sheets->size($place);
            Pdf::draw($file, $place, 144, "{$this->folder}/p.jpg", new DocumentLimits);
            $page = new Imagick("{$this->folder}/p.jpg");
            self::assertSame([$width, $height], [$page->getImageWidth(), $page->getImageHeight()]);
            // all that is dark lies in the boxes of the words, and in each of them something is
            foreach ($words[$place]->words as $word) {
                self::assertGreaterThan(40, self::dark($page, $word->box), $word->text);
            }
            self::assertLessThan(10, self::dark($page, Box::of(0, 0, $width, $height)) - array_sum(array_map(static fn (Word $word): int => self::dark($page, $word->box), $words[$place]->words)));
        }
    }

    /** Pixels darker than half in a box. */
    private static function dark(Imagick $page, Box $box): int
    {
        $part = clone $page;
        $part->cropImage((int) ceil($box->width), (int) ceil($box->height), (int) floor($box->x), (int) floor($box->y));
        $pixels = $part->exportImagePixels(0, 0, $part->getImageWidth(), $part->getImageHeight(), 'I', Imagick::PIXEL_CHAR);

        return count(array_filter($pixels, static fn (int $value): bool => $value < 128));
    }

    public function test_a_page_that_is_turned_or_cropped_is_as_it_is_seen(): void
    {
        $stream = 'BT /F1 24 Tf 100 700 Td (Larkmoor) Tj ET';
        $page = static fn (string $more): array => [
            1 => '<</Type/Catalog/Pages 2 0 R>>', 2 => '<</Type/Pages/Kids[3 0 R]/Count 1>>',
            3 => "<</Type/Page/Parent 2 0 R/MediaBox[0 0 600 800]{$more}/Contents 4 0 R/Resources<</Font<</F1 5 0 R>>>>>>",
            4 => '<</Length '.strlen($stream).">>\nstream\n{$stream}\nendstream", 5 => '<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>',
        ];
        $turned = Pdf::open(Papers::raw("{$this->folder}/t.pdf", $page('/Rotate 90')), 72, new DocumentLimits);
        self::assertSame([800, 600], $turned->sheets->size(0));
        [$word] = self::wordsOf($turned)[0]->words;
        Pdf::draw("{$this->folder}/t.pdf", 0, 72, "{$this->folder}/t.jpg", new DocumentLimits);
        self::assertGreaterThan(100, self::dark(new Imagick("{$this->folder}/t.jpg"), $word->box));

        $cropped = Pdf::open(Papers::raw("{$this->folder}/c.pdf", $page('/CropBox[90 650 390 750]')), 72, new DocumentLimits);
        self::assertSame([300, 100], $cropped->sheets->size(0));
        [$word] = self::wordsOf($cropped)[0]->words;
        self::assertEqualsWithDelta(10, $word->box->x, 2);
        Pdf::draw("{$this->folder}/c.pdf", 0, 72, "{$this->folder}/c.jpg", new DocumentLimits);
        self::assertGreaterThan(100, self::dark(new Imagick("{$this->folder}/c.jpg"), $word->box));
    }

    /** @return iterable<string, array{Closure(string): string, string, 2?: int}> */
    public static function refused(): iterable
    {
        $plain = static fn (string $folder): string => Papers::pdf("{$folder}/plain.pdf", [[300, 400, [[50, 100, 'Bin']]]]);
        yield 'locked' => [static function (string $folder) use ($plain): string {
            (new Process(['qpdf', '--encrypt', 'open', 'own', '256', '--', $plain($folder), "{$folder}/locked.pdf"]))->mustRun();

            return "{$folder}/locked.pdf";
        }, 'password'];
        yield 'cut off' => [static function (string $folder) use ($plain): string {
            $file = $plain($folder);
            file_put_contents($file, substr((string) file_get_contents($file), 0, 60));

            return $file;
        }, 'cut off or broken'];
        yield 'a name alone' => [static function (string $folder): string {
            file_put_contents("{$folder}/x.pdf", '%PDF-1.4');

            return "{$folder}/x.pdf";
        }, 'broken'];
        yield 'too many pages' => [static fn (string $folder): string => Papers::pdf("{$folder}/many.pdf", array_fill(0, 12, [100.0, 100.0, []])), 'it has 12 pages; at most 10'];
        yield 'a page of a kilometre' => [static fn (string $folder): string => Papers::pdf("{$folder}/wide.pdf", [[300, 300, []], [14_000, 14_000, []]]), 'page 2 is 29167 × 29167 px'];
        yield 'a page of nothing' => [static fn (string $folder): string => Papers::pdf("{$folder}/thin.pdf", [[1, 400, []]]), 'page 1 has no size'];
        yield 'a count that lies' => [static fn (string $folder): string => Papers::raw("{$folder}/lies.pdf", [1 => '<</Type/Catalog/Pages 2 0 R>>', 2 => '<</Type/Pages/Kids[3 0 R]/Count 2000000000>>', 3 => '<</Type/Page/Parent 2 0 R/MediaBox[0 0 100 100]>>']), ''];
        yield 'pages that lead in a circle' => [static fn (string $folder): string => Papers::raw("{$folder}/loop.pdf", [1 => '<</Type/Catalog/Pages 2 0 R>>', 2 => '<</Type/Pages/Kids[3 0 R 2 0 R]/Count 3>>', 3 => '<</Type/Pages/Kids[2 0 R]/Count 2/Parent 2 0 R>>']), ''];
        yield 'a resolution nobody needs' => [$plain, 'at 1200 px an inch', 1200];
    }

    /** @param  Closure(string): string  $make */
    #[DataProvider('refused')]
    public function test_what_can_not_be_a_document_is_refused_by_its_reason(Closure $make, string $reason, int $resolution = 150): void
    {
        $this->expectException(RefusedDocument::class);
        $this->expectExceptionMessageMatches('/'.preg_quote($reason, '/').'/');
        Pdf::open($make($this->folder), $resolution, new DocumentLimits(maxPages: 10));
    }

    public function test_what_loops_or_runs_on_a_page_neither_hangs_nor_runs(): void
    {
        $loop = 'q /Me Do Q';
        $file = Papers::raw("{$this->folder}/me.pdf", [
            1 => '<</Type/Catalog/Pages 2 0 R/OpenAction<</S/JavaScript/JS(app.alert(1))>>/Names<</JavaScript<</Names[(a) <</S/JavaScript/JS(app.alert(2))>>]>>>>>>', 2 => '<</Type/Pages/Kids[3 0 R]/Count 1>>',
            3 => '<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 200]/Contents 4 0 R/Resources<</XObject<</Me 5 0 R>>>>>>', 4 => '<</Length '.strlen($loop).">>\nstream\n{$loop}\nendstream",
            5 => '<</Type/XObject/Subtype/Form/BBox[0 0 200 200]/Resources<</XObject<</Me 5 0 R>>>>/Length '.strlen($loop).">>\nstream\n{$loop}\nendstream",
        ]);
        $began = microtime(true);
        $pdf = Pdf::open($file, 72, new DocumentLimits(patience: 20));
        self::assertTrue($pdf->hasScripts);
        Pdf::draw($file, 0, 72, "{$this->folder}/me.jpg", new DocumentLimits(patience: 20));
        self::assertCount(1, self::wordsOf($pdf));
        self::assertLessThan(20, microtime(true) - $began);
    }

    public function test_a_program_that_wants_too_much_is_stopped(): void
    {
        $file = Papers::pdf("{$this->folder}/a.pdf", [[300, 400, [[50, 100, 'Bin 17']]]]);
        try {
            Pdf::open($file, 150, new DocumentLimits(memory: 8_000_000));
            self::fail('it had memory after all');
        } catch (RefusedDocument $e) {
            self::assertNotSame('', $e->getMessage());
        }
    }

    public function test_the_pages_of_a_tiff_are_those_that_are_pages(): void
    {
        $scan = Papers::scanned(Papers::pdf("{$this->folder}/a.pdf", [[300, 400, [[50, 100, 'one']]], [200, 100, [[50, 50, 'two']]]]), 72);
        $file = Papers::tiff("{$this->folder}/two.tif", $scan);
        self::assertTrue(TiffPages::isMany($file));
        $pages = TiffPages::of($file, new DocumentLimits);
        self::assertSame([[300, 400], [200, 100]], $pages->sizes);
        self::assertSame([0, 1], $pages->frames);
        self::assertFalse(TiffPages::isMany(Papers::tiff("{$this->folder}/one.tif", [$scan[0]])));

        foreach (['<' => false, '>' => false, '<big' => true] as $order => $big) {
            [$little, $bytes] = [$order[0] === '<', $this->directories($order[0] === '<', $big, [[256 => 640, 257 => 480], [254 => 1, 256 => 64, 257 => 48], [256 => 480, 257 => 640, 274 => 6]])];
            file_put_contents("{$this->folder}/own.tif", $bytes);
            $pages = TiffPages::of("{$this->folder}/own.tif", new DocumentLimits);
            self::assertSame([[[640, 480], [640, 480]], [0, 2]], [$pages->sizes, $pages->frames], $order.($little ? '' : ' big end first'));
        }
        // a picture with a small copy of itself is one picture
        file_put_contents("{$this->folder}/own.tif", $this->directories(true, false, [[256 => 640, 257 => 480], [254 => 1, 256 => 64, 257 => 48]]));
        self::assertFalse(TiffPages::isMany("{$this->folder}/own.tif"));
    }

    /** @param  list<array<int, int>>  $directories */
    private function directories(bool $little, bool $big, array $directories, ?int $back = null): string
    {
        $n = static function (int $value, int $bytes) use ($little): string {
            $hex = (string) hex2bin(str_pad(dechex($value), 2 * $bytes, '0', STR_PAD_LEFT));

            return $little ? strrev($hex) : $hex;
        };
        $out = ($little ? 'II' : 'MM').($big ? $n(43, 2).$n(8, 2).$n(0, 2).$n(16, 8) : $n(42, 2).$n(8, 4));
        foreach ($directories as $i => $tags) {
            $out .= $n(count($tags), $big ? 8 : 2);
            foreach ($tags as $tag => $value) {
                $out .= $n($tag, 2).$n(4, 2).$n(1, $big ? 8 : 4).$n($value, 4).($big ? $n(0, 4) : '');
                if ($big && ! $little) {
                    self::fail('not written here');
                }
            }
            $here = strlen($out) + ($big ? 8 : 4);
            $out .= $n($i + 1 < count($directories) ? $here : ($back ?? 0), $big ? 8 : 4);
        }

        return $out;
    }

    public function test_a_tiff_that_leads_back_or_is_cut_off_is_refused(): void
    {
        $limits = new DocumentLimits(maxPages: 3);
        $said = function (string $bytes) use ($limits): string {
            file_put_contents("{$this->folder}/own.tif", $bytes);
            try {
                TiffPages::of("{$this->folder}/own.tif", $limits);
            } catch (RefusedDocument $e) {
                return $e->getMessage();
            }

            return '';
        };
        $page = [256 => 640, 257 => 480];
        self::assertStringContainsString('lead back', $said($this->directories(true, false, [$page, $page], 8)));
        self::assertStringContainsString('cut off', $said(substr($this->directories(true, false, [$page, $page]), 0, -20)));
        self::assertStringContainsString('it has 4 pages; at most 3', $said($this->directories(true, false, array_fill(0, 5, $page))));
        self::assertStringContainsString('page 2 is 100000 × 480 px', $said($this->directories(true, false, [$page, [256 => 100_000, 257 => 480]])));
        self::assertStringContainsString('page 1 has no size', $said($this->directories(true, false, [[256 => 0, 257 => 480], $page])));
    }

    public function test_a_scanned_page_is_read(): void
    {
        [$scan] = Papers::scanned(Papers::pdf("{$this->folder}/a.pdf", [[300, 400, [[50, 100, 'Bin 17'], [50, 160, 'Weight 412 kg']]]]), 150);
        $scan->writeImage("{$this->folder}/scan.png");
        $words = (new Reading(new DocumentLimits))->page("{$this->folder}/scan.png", 150, $this->folder);
        self::assertSame("Bin 17\nWeight 412 kg", $words->text());
        self::assertGreaterThan(0.6, $words->confidence());
        // in px of the page, though it was read from a larger copy: 50 points are 104 px
        self::assertEqualsWithDelta(50 * 150 / 72, $words->words[0]->box->x, 4);
        self::assertSame([], glob("{$this->folder}/read-*"));
        $this->expectExceptionMessage('lacks that language');
        (new Reading(new DocumentLimits, 'xyz'))->page("{$this->folder}/scan.png", 150, $this->folder);
    }

    public function test_single_figures_in_a_table_are_read_at_a_low_resolution(): void
    {
        $rows = [];
        foreach (range(1, 9) as $row) {
            array_push($rows, [30, 60 + 30 * $row, (string) $row], [120, 60 + 30 * $row, (300 + 7 * $row).' kg'], [220, 60 + 30 * $row, (40 + $row).' kg']);
        }
        [$scan] = Papers::scanned(Papers::pdf("{$this->folder}/a.pdf", [[300, 420, $rows]]), 110);
        $scan->writeImage("{$this->folder}/scan.png");
        $read = (new Reading(new DocumentLimits))->page("{$this->folder}/scan.png", 0, $this->folder)->text();
        $right = array_filter(range(1, 9), static fn (int $row): bool => str_contains($read, (300 + 7 * $row).' kg') && str_contains($read, (40 + $row).' kg'));
        self::assertGreaterThanOrEqual(8, count($right), $read);
    }

    public function test_a_table_of_what_was_read(): void
    {
        $names = "level\tpage_num\tblock_num\tpar_num\tline_num\tword_num\tleft\ttop\twidth\theight\tconf\ttext\n";
        $words = Reading::table($names."1\t1\t0\t0\t0\t0\t0\t0\t600\t800\t-1\t\n5\t1\t1\t1\t1\t1\t10\t20\t30\t12\t96.5\tNet\n5\t1\t1\t1\t1\t2\t50\t20\t30\t12\t41\tkg\n5\t1\t1\t1\t2\t1\t10\t40\t30\t12\t88\t \n5\t1\t2\t1\t1\t1\t10\t60\t30\t12\t120\ta\tb\nbroken\n");
        self::assertSame([['Net', 10.0, 20.0, 30.0, 12.0, 1, 0.965], ['kg', 50.0, 20.0, 30.0, 12.0, 1, 0.41], ['a b', 10.0, 60.0, 30.0, 12.0, 2, 1.0]], $words->toArray());
        self::assertSame(0.41, $words->confidence());
        self::assertSame("Net kg\na b", $words->text());
    }

    public function test_a_box_takes_the_words_most_of_which_lie_in_it(): void
    {
        $words = PageWords::of([new Word('Weight', Box::of(100, 100, 60, 20), 1, 0.9), new Word('412', Box::of(170, 100, 30, 20), 1, 0.7), new Word('kg', Box::of(205, 100, 20, 20), 1), new Word('below', Box::of(100, 130, 50, 20), 2)]);
        self::assertSame('Weight 412', $words->in(Box::of(90, 95, 115, 20))->text());
        self::assertSame("Weight\nbelow", $words->in(Box::of(90, 95, 60, 60))->text());
        self::assertSame(0.7, $words->in(Box::of(90, 95, 115, 20))->confidence());
        self::assertTrue($words->in(Box::of(300, 300, 10, 10))->isEmpty());
        self::assertNull($words->in(Box::of(300, 300, 10, 10))->around(400, 400));
        self::assertSame(['x' => 98.0, 'y' => 98.0, 'width' => 104.0, 'height' => 24.0], $words->in(Box::of(90, 95, 115, 20))->around(400, 400)?->toArray());
        // never past the edge of the page
        self::assertSame(['x' => 98.0, 'y' => 98.0, 'width' => 62.0, 'height' => 22.0], $words->in(Box::of(90, 95, 60, 20))->around(160, 120)?->toArray());
        self::assertEquals($words, PageWords::fromArray(json_decode((string) json_encode($words->toArray()), true)));
        foreach ([[['a', 1, 2, 3, 4]], [['a', 'x', 2, 3, 4, 1]], 'words', [['a', 1, 2, -3, 4, 1]]] as $bad) {
            try {
                PageWords::fromArray($bad);
                self::fail('it was read: '.json_encode($bad));
            } catch (InvalidValue) {
                $this->addToAssertionCount(1);
            }
        }
    }

    public function test_what_stands_beside_each_other_is_one_line_whatever_column_it_was_put_into(): void
    {
        $at = static fn (string $text, float $x, float $y, int $line): Word => new Word($text, Box::of($x, $y, 40, 16), $line);
        // two columns as a file has them, on a sheet that lies askew
        $words = PageWords::of([$at('1', 10, 100, 1), $at('2', 10, 130, 2), $at('412', 200, 104, 3), $at('380', 200, 134, 4), $at('kg', 400, 108, 5), $at('kg', 400, 138, 6)]);
        self::assertSame("1 412 kg\n2 380 kg", $words->text());
        // what is raised or small belongs to its line
        self::assertSame('412 2', PageWords::of([$at('412', 10, 100, 1), new Word('2', Box::of(60, 98, 6, 8), 2)])->text());
        // right to left
        self::assertSame('שלום לכם', PageWords::of([$at('לכם', 10, 100, 1), $at('שלום', 60, 100, 1)])->text());
        self::assertSame('', PageWords::of([])->text());
    }

    public function test_words_are_cleaned_of_what_turns_others_round(): void
    {
        self::assertSame('a b', PageWords::clean("\u{202E}a\0\tb\u{2066} "));
        self::assertNull(PageWords::clean("\u{FEFF}\x07\u{E000}"));
        self::assertSame(PageWords::LONGEST, mb_strlen((string) PageWords::clean(str_repeat('ä', 5000))));
        self::assertSame('شكر', PageWords::clean('شكر'));
    }

    public function test_sheets_know_the_size_of_each_page(): void
    {
        $sizes = [];
        foreach ([[600, 800, 5], [800, 600, 1], [600, 800, 294]] as [$width, $height, $count]) {
            array_push($sizes, ...array_fill(0, $count, [$width, $height]));
        }
        $sheets = Sheets::of($sizes);
        self::assertSame([300, [[600, 800, 5], [800, 600, 1], [600, 800, 294]]], [$sheets->count, $sheets->toArray()]);
        foreach ($sizes as $place => $size) {
            self::assertSame($size, $sheets->size($place));
        }
        self::assertEquals($sheets, Sheets::fromArray($sheets->toArray()));
        foreach ([-1, 300] as $place) {
            try {
                $sheets->size($place);
                self::fail("there is a page {$place}");
            } catch (InvalidValue $e) {
                self::assertStringContainsString('from 0 to 299', $e->getMessage());
            }
        }
        foreach ([[], [[1, 2]], [[0, 2, 1]], [[5, 5, 1], 'x'], null] as $bad) {
            try {
                Sheets::fromArray($bad);
                self::fail('it was read: '.json_encode($bad));
            } catch (InvalidValue) {
                $this->addToAssertionCount(1);
            }
        }
    }
}
