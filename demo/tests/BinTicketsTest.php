<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use Imagick;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Document\DocumentLimits;
use Skeno\Core\Document\PageWords;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Demo\BinTickets;
use Skeno\Demo\CanopyWalk;
use Skeno\Demo\Chance;

final class BinTicketsTest extends TestCase
{
    private string $folder;

    protected function setUp(): void
    {
        $this->folder = sys_get_temp_dir().'/tickets-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    protected function tearDown(): void
    {
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    public function test_a_ticket_with_a_text_layer_says_what_its_truth_says(): void
    {
        $truth = BinTickets::write("{$this->folder}/a.pdf", 'pdf', new Chance('ticket/2'));
        BinTickets::write("{$this->folder}/b.pdf", 'pdf', new Chance('ticket/2'));
        self::assertFileEquals("{$this->folder}/a.pdf", "{$this->folder}/b.pdf", 'the same seed makes the same ticket');
        $pdf = Pdf::open("{$this->folder}/a.pdf", 150, new DocumentLimits);
        self::assertSame(count($truth['kinds']), $pdf->sheets->count);
        $words = [];
        Pdf::words($pdf->file, 150, new DocumentLimits, static function (int $place, PageWords $page) use (&$words): void {
            $words[$place] = $page;
        });
        $lines = 0;
        foreach ($truth['marks'] as $mark) {
            if ($mark['written'] !== null) {
                self::assertSame($mark['written'], $words[$mark['place']]->in(Box::of(...$mark['box']))->text());
                $lines++;
            }
        }
        self::assertGreaterThan(8, $lines);
    }

    public function test_on_a_scan_what_is_marked_lies_under_its_box(): void
    {
        $truth = BinTickets::write("{$this->folder}/scan", 'pictures', new Chance('ticket/4'));
        self::assertCount(count($truth['kinds']), glob("{$this->folder}/scan/*.jpg") ?: []);
        foreach ($truth['marks'] as $mark) {
            $page = new Imagick("{$this->folder}/scan/page-".($mark['place'] + 1).'.jpg');
            $box = $mark['box'];
            $page->cropImage((int) ceil($box['width']), (int) ceil($box['height']), (int) $box['x'], (int) $box['y']);
            $dark = count(array_filter($page->exportImagePixels(0, 0, $page->getImageWidth(), $page->getImageHeight(), 'I', Imagick::PIXEL_CHAR), static fn (int $value): bool => $value < 130));
            self::assertGreaterThan(60, $dark, $mark['class']);
        }
    }

    public function test_the_work_done_is_what_the_check_lets_through(): void
    {
        $codebook = Codebook::fromJson((string) file_get_contents(CanopyWalk::file('bin-tickets.json')));
        $truth = [];
        foreach (BinTickets::plan() as $ticket) {
            $truth[$ticket['path']] = BinTickets::write("{$this->folder}/".basename($ticket['path']), $ticket['form'], new Chance($ticket['seed']));
        }
        $work = BinTickets::work($truth);
        self::assertCount(5, $work);
        self::assertContains('return', array_column($work, 'decision'));
        foreach ($work as $entry) {
            /** @var list<array<string, mixed>> $rows */
            $rows = $entry['marks'];
            $marks = array_map(static fn (array $row, int $i): Mark => Mark::fromArray(['id' => sprintf('01JZ%022d', $i)] + $row), $rows, array_keys($rows));
            $sheets = Sheets::of(array_fill(0, count($truth[$entry['path']]['kinds']), [875, 1240]));
            $stops = array_filter((new MarkCheck($codebook))->item($marks, Extent::pages($sheets), ItemAnswers::fromArray($entry['said'])), static fn (Finding $finding): bool => $finding->stops);
            self::assertSame([], array_map(static fn (Finding $finding): string => $finding->message, $stops));
        }
    }
}
