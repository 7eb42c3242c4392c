<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Imagick;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Symfony\Component\Process\Process;

/**
 * The demo project "Bin tickets": delivery sheets of the picking cart, two to four pages, with what was weighed, corrected and signed, and the truth
 * about each. One came as a PDF with its text, one as a scan of several pages, the others as page pictures.
 */
final class BinTickets
{
    /** Points of a sheet, and px an inch it is drawn at. */
    private const WIDTH = 420.0;

    private const HEIGHT = 595.0;

    private const RESOLUTION = 150;

    private const VARIETIES = ['Larkmoor Russet', 'Ashdown Red', 'Pale Ida', 'Winterholt'];

    private const BLOCKS = ['north terrace', 'old wall', 'slope', 'nursery'];

    private const TERMS = [
        'Bins are weighed on the cart before they leave the row.', 'Tare is the weight of the empty bin as it is painted on its side.', 'A figure that was wrong is struck out once and written beside, never over.',
        'Whoever drives the cart signs each sheet of lines at its foot.', 'Sheets go to the office on the day of the delivery.',
    ];

    /** @var list<array{class: string, place: int, box: array{float, float, float, float}, written: ?string}> in points */
    private array $marks = [];

    /** @var list<float> degrees by which the pages lie askew */
    private array $turns = [];

    private function __construct()
    {
    }

    /** @return list<array{path: string, seed: string, form: string}> form: pdf, tiff or pictures */
    public static function plan(): array
    {
        $plan = [];
        for ($i = 1; $i <= 8; $i++) {
            $form = match ($i) {
                2 => 'pdf',
                5 => 'tiff',
                default => 'pictures',
            };
            $plan[] = ['path' => sprintf('deliveries/ticket-%02d', $i).match ($form) {
                'pdf' => '.pdf',
                'tiff' => '.tif',
                default => '',
            }, 'seed' => "ticket/{$i}", 'form' => $form];
        }

        return $plan;
    }

    /**
     * Writes a ticket.
     *
     * @param  string  $target  a file, or the folder of its page pictures
     * @return array{marks: list<array{class: string, place: int, box: array{x: float, y: float, width: float, height: float}, written: ?string}>, kinds: list<string>} boxes in px of the pages
     */
    public static function write(string $target, string $form, Chance $chance): array
    {
        $paper = new Paper(self::WIDTH, self::HEIGHT);
        $ticket = new self;
        $kinds = $ticket->draw($paper, $chance, $form !== 'pdf');
        $pdf = "{$target}.made";
        @mkdir(dirname($target), 0o770, true);
        $paper->Output('F', $pdf);
        $px = self::RESOLUTION / 72;
        $marks = array_map(static fn (array $mark): array => ['box' => Box::of(...array_map(static fn (float $n): float => $n * $px, $mark['box']))] + $mark, $ticket->marks);
        if ($form === 'pdf') {
            rename($pdf, $target);
        } else {
            self::scan($pdf, $target, $form, count($kinds));
            $marks = array_map(static fn (array $mark): array => ['box' => self::turned($mark['box'], $ticket->turns[$mark['place']])] + $mark, $marks);
            unlink($pdf);
        }

        return ['marks' => array_map(static fn (array $mark): array => ['class' => $mark['class'], 'place' => $mark['place'], 'box' => $mark['box']->toArray(), 'written' => $mark['written']], $marks), 'kinds' => $kinds];
    }

    /** @return list<string> the kind of each page */
    private function draw(Paper $paper, Chance $chance, bool $scanned): array
    {
        $number = $chance->int(1100, 9800);
        $bins = $chance->int(9, 26);
        $kinds = ['front'];
        $begin = function () use ($paper, $chance, $scanned): void {
            $paper->begin($this->turns[] = $scanned ? $chance->between(-0.9, 0.9) : 0.0);
        };
        $begin();
        self::front($paper, $chance, $number, $bins);
        $this->sign($paper, $chance, 250, 505, 0);
        $row = 0;
        for ($place = 1; $row < $bins; $place++) {
            $kinds[] = 'lines';
            $begin();
            $row = $this->lines($paper, $chance, $place, $number, $row, min($bins, $row + 13));
            $this->sign($paper, $chance, 262, 530, $place);
        }
        if ($chance->yes(0.6)) {
            $kinds[] = 'back';
            $begin();
            $paper->SetFont('Helvetica', 'B', 13);
            $paper->Text(36, 60, 'What holds for bin tickets');
            $paper->SetFont('Helvetica', '', 10);
            foreach (self::TERMS as $i => $line) {
                $paper->Text(36, 90 + 24 * $i, ($i + 1).'. '.$line);
            }
        }

        return $kinds;
    }

    private static function front(Paper $paper, Chance $chance, int $number, int $bins): void
    {
        $paper->SetTextColor(30);
        $paper->SetFont('Helvetica', 'B', 17);
        $paper->Text(36, 62, 'Larkmoor Orchard Trials');
        $paper->SetFont('Helvetica', '', 12);
        $paper->Text(36, 82, "Bin ticket {$number}");
        $paper->SetDrawColor(90);
        $paper->SetLineWidth(1.2);
        $paper->Line(36, 94, self::WIDTH - 36, 94);
        $rows = ['Block' => $chance->one(self::BLOCKS), 'Variety' => $chance->one(self::VARIETIES), 'Picked on' => $chance->int(1, 28).' September', 'Bins' => (string) $bins, 'Cart' => 'cart '.$chance->int(1, 4), 'Driven by' => $chance->one(['M. Castellan', 'R. Sorby', 'A. Duarte'])];
        $y = 130.0;
        foreach ($rows as $word => $value) {
            $paper->SetFont('Helvetica', '', 9);
            $paper->SetTextColor(110);
            $paper->Text(36, $y, $word);
            $paper->SetTextColor(30);
            $paper->SetFont('Times', 'I', 15);
            $paper->Text(130, $y, $value);
            $paper->SetLineWidth(0.4);
            $paper->Line(128, $y + 5, self::WIDTH - 36, $y + 5);
            $y += 36;
        }
        $paper->SetFont('Helvetica', '', 9);
        $paper->Text(36, 500, 'Delivered to the cold store by');
    }

    /**
     * A sheet of lines, a bin a line.
     *
     * @return int lines written by now
     */
    private function lines(Paper $paper, Chance $chance, int $place, int $number, int $from, int $to): int
    {
        $paper->SetFont('Helvetica', '', 9);
        $paper->SetTextColor(110);
        $paper->Text(36, 50, "Bin ticket {$number}, sheet {$place}");
        $columns = ['Bin' => 36.0, 'Gross' => 110.0, 'Tare' => 190.0, 'Net' => 262.0];
        foreach ($columns as $name => $x) {
            $paper->Text($x, 76, $name);
        }
        $paper->SetDrawColor(120);
        $paper->SetLineWidth(0.6);
        $paper->Line(34, 82, self::WIDTH - 34, 82);
        $paper->SetTextColor(30);
        for ($row = $from; $row < $to; $row++) {
            $y = 104.0 + 31 * ($row - $from);
            $tare = $chance->int(38, 44);
            $net = $chance->int(270, 420);
            $cells = ['Bin' => (string) ($row + 1), 'Gross' => ($net + $tare).' kg', 'Tare' => "{$tare} kg", 'Net' => "{$net} kg"];
            $paper->SetFont('Helvetica', '', 12);
            $right = 0.0;
            foreach ($columns as $name => $x) {
                $paper->Text($x, $y, $cells[$name]);
                $right = $x + $paper->wide($cells[$name]);
            }
            $this->marks[] = ['class' => 'weight_line', 'place' => $place, 'box' => [34.5, $y - 10.5, $right - 33, 13.5], 'written' => implode(' ', $cells)];
            if ($chance->yes(0.14)) {
                // the net was wrong: struck out, and the right one beside it
                $paper->SetDrawColor(40, 60, 150);
                $paper->SetLineWidth(1.3);
                $paper->Line($columns['Net'] - 3, $y - 3 + $chance->normal(0.8), $right + 3, $y - 5 + $chance->normal(0.8));
                $paper->SetFont('Times', 'I', 15);
                $paper->SetTextColor(40, 60, 150);
                $word = ($net + $chance->int(-9, 9)).' kg';
                $paper->Text($right + 14, $y + 1, $word);
                $this->marks[] = ['class' => 'correction', 'place' => $place, 'box' => [$right + 12.5, $y - 11.5, $paper->wide($word) + 3, 16], 'written' => $word];
                $paper->SetTextColor(30);
                $paper->SetDrawColor(120);
                $paper->SetLineWidth(0.6);
            }
            $paper->SetDrawColor(215);
            $paper->Line(34, $y + 9, self::WIDTH - 34, $y + 9);
            $paper->SetDrawColor(120);
        }
        $paper->SetFont('Helvetica', '', 9);
        $paper->Text(150, 533, 'Signed');

        return $to;
    }

    private function sign(Paper $paper, Chance $chance, float $x, float $y, int $place): void
    {
        $paper->SetDrawColor(35, 50, 140);
        $paper->SetLineWidth(1.4);
        [$width, $loops] = [$chance->between(70, 110), $chance->between(3.5, 6.5)];
        [$left, $top, $right, $bottom] = [INF, INF, -INF, -INF];
        $last = null;
        for ($t = 0; $t <= 90; $t++) {
            $s = $t / 90;
            $px = $x + $width * $s + 7 * sin($loops * 2 * M_PI * $s);
            $py = $y - 13 * (1 - 0.6 * $s) * sin($loops * 2 * M_PI * $s + 1.1) * (0.6 + 0.4 * sin(9 * $s));
            if ($last !== null) {
                $paper->Line($last[0], $last[1], $px, $py);
            }
            $last = [$px, $py];
            [$left, $top, $right, $bottom] = [min($left, $px), min($top, $py), max($right, $px), max($bottom, $py)];
        }
        $this->marks[] = ['class' => 'signature', 'place' => $place, 'box' => [$left - 2, $top - 2, $right - $left + 4, $bottom - $top + 4], 'written' => null];
        $paper->SetDrawColor(120);
        $paper->SetLineWidth(0.6);
    }

    /** The pages as a scanner has them: a little gray. */
    private static function scan(string $pdf, string $target, string $form, int $pages): void
    {
        $all = new Imagick;
        for ($place = 0; $place < $pages; $place++) {
            $page = (string) ($place + 1);
            (new Process(['pdftoppm', '-q', '-r', (string) self::RESOLUTION, '-f', $page, '-l', $page, '-singlefile', '-png', $pdf, "{$pdf}-page"]))->mustRun();
            $image = new Imagick("{$pdf}-page.png");
            unlink("{$pdf}-page.png");
            [$width, $height] = [$image->getImageWidth(), $image->getImageHeight()];
            $paper = new Imagick;
            $paper->newPseudoImage($width, $height, 'gradient:#fbf9f3-#ece7db');
            $image->compositeImage($paper, Imagick::COMPOSITE_MULTIPLY, 0, 0);
            $image->setImageFormat($form === 'tiff' ? 'tiff' : 'jpeg');
            $image->setImageCompression($form === 'tiff' ? Imagick::COMPRESSION_ZIP : Imagick::COMPRESSION_JPEG);
            $image->setImageCompressionQuality(84);
            $image->setImageUnits(Imagick::RESOLUTION_PIXELSPERINCH);
            $image->setImageResolution(self::RESOLUTION, self::RESOLUTION);
            $image->setImageDepth(8);
            if ($form === 'tiff') {
                $all->addImage($image);
            } else {
                @mkdir($target, 0o770, true);
                $image->stripImage();
                $image->writeImage("{$target}/page-{$page}.jpg");
            }
        }
        if ($form === 'tiff') {
            $all->writeImages("tiff:{$target}", true);
        }
    }

    /** The box around a box on a sheet that lies turned about its middle. */
    private static function turned(Box $box, float $degrees): Box
    {
        [$mx, $my] = [self::WIDTH * self::RESOLUTION / 144, self::HEIGHT * self::RESOLUTION / 144];
        [$sin, $cos] = [sin(deg2rad($degrees)), cos(deg2rad($degrees))];
        $ring = [];
        foreach ([[$box->x, $box->y], [$box->right(), $box->y], [$box->right(), $box->bottom()], [$box->x, $box->bottom()]] as [$x, $y]) {
            array_push($ring, $mx + ($x - $mx) * $cos - ($y - $my) * $sin, $my + ($x - $mx) * $sin + ($y - $my) * $cos);
        }
        $around = Polygon::of([$ring])->bounds();

        return Box::of(round($around->x, 2), round($around->y, 2), round($around->width, 2), round($around->height, 2));
    }

    /**
     * The work done so far: five of eight are labelled. Mei is careful, Ravi leaves air and reads a figure wrongly now and then, Aoife overlooks corrections.
     *
     * @param  array<string, array{marks: list<array{class: string, place: int, box: array{x: float, y: float, width: float, height: float}, written: ?string}>, kinds: list<string>}>  $truth  by path
     * @return list<array<string, mixed>>
     */
    public static function work(array $truth): array
    {
        $chance = new Chance('tickets');
        $work = [];
        $people = Labeller::cases();
        foreach (array_slice(array_keys($truth), 0, 5) as $i => $path) {
            $person = $people[$i % 3];
            $marks = [];
            $missed = null;
            foreach ($truth[$path]['marks'] as $mark) {
                if ($person === Labeller::Aoife && $mark['class'] === 'correction' && $chance->yes(0.7)) {
                    $missed ??= $mark;

                    continue;
                }
                $air = $person === Labeller::Ravi ? $chance->between(3, 7) : 0.8;
                $written = $mark['written'];
                if ($person === Labeller::Ravi && $written !== null && $chance->yes(0.12)) {
                    $written = strtr($written, ['3' => '8']);
                }
                $marks[] = [
                    'class' => $mark['class'], 'kind' => 'box', 'place' => $mark['place'],
                    'geometry' => ['x' => round($mark['box']['x'] - $air, 2), 'y' => round($mark['box']['y'] - $air, 2), 'width' => round($mark['box']['width'] + 2 * $air, 2), 'height' => round($mark['box']['height'] + 2 * $air, 2)],
                    'answers' => $written === null ? [] : ['written' => ['value' => $written]],
                ];
            }
            $said = ['answers' => ['complete' => ['value' => true]], 'tags' => [], 'stretches' => array_map(static fn (string $kind, int $page): array => ['question' => 'page_kind', 'first' => $page, 'last' => $page, 'answer' => ['value' => $kind]], $truth[$path]['kinds'], array_keys($truth[$path]['kinds']))];
            $entry = ['path' => $path, 'labeller' => $person->value, 'days_ago' => 5 - $i, 'seconds' => 40 + 6 * count($marks), 'marks' => $marks, 'said' => $said];
            if ($i < 4) {
                $entry += $missed === null ? ['decision' => 'accept'] : ['decision' => 'return', 'reason' => 'Corrections too: what is written beside a figure that was struck out.', 'pins' => [['x' => round($missed['box']['x'], 1), 'y' => round($missed['box']['y'], 1), 'place' => $missed['place'], 'text' => 'a correction']]];
            }
            $work[] = $entry;
        }

        return $work;
    }
}
