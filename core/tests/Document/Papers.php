<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Document;

use FPDF;
use Imagick;
use Symfony\Component\Process\Process;

/** Small documents whose words lie where they were put. */
final class Papers
{
    /**
     * @param  list<array{float, float, list<array{float, float, string}>}>  $pages  width and height in points, and words by the left end of their base line
     */
    public static function pdf(string $file, array $pages): string
    {
        $pdf = new FPDF('P', 'pt');
        $pdf->SetAutoPageBreak(false);
        foreach ($pages as [$width, $height, $words]) {
            // (the library turns a page that is wider than high on its side, unless it is told to)
            $pdf->AddPage($width > $height ? 'L' : 'P', [$width, $height]);
            $pdf->SetFont('Helvetica', '', 20);
            foreach ($words as [$x, $y, $text]) {
                $pdf->Text($x, $y, $text);
            }
        }
        $pdf->Output('F', $file);

        return $file;
    }

    /**
     * A PDF of raw objects, with an index that is right.
     *
     * @param  array<int, string>  $objects  by number, from 1, without gaps
     */
    public static function raw(string $file, array $objects, string $root = '1 0 R'): string
    {
        $body = "%PDF-1.7\n";
        $at = [];
        foreach ($objects as $number => $object) {
            $at[$number] = strlen($body);
            $body .= "{$number} 0 obj\n{$object}\nendobj\n";
        }
        $index = strlen($body);
        $body .= 'xref'."\n0 ".(count($objects) + 1)."\n0000000000 65535 f \n";
        foreach ($at as $offset) {
            $body .= sprintf("%010d 00000 n \n", $offset);
        }
        file_put_contents($file, $body.'trailer <</Size '.(count($objects) + 1)."/Root {$root}>>\nstartxref\n{$index}\n%%EOF\n");

        return $file;
    }

    /**
     * The pages of a PDF as pictures, as a scanner would have them.
     *
     * @return list<Imagick>
     */
    public static function scanned(string $pdf, int $resolution): array
    {
        $to = $pdf.'-scan';
        (new Process(['pdftoppm', '-r', (string) $resolution, '-gray', '-png', $pdf, $to]))->mustRun();
        $files = glob("{$to}-*.png") ?: [];
        sort($files);
        $pages = array_map(static fn (string $file): Imagick => new Imagick($file), $files);
        array_map(unlink(...), $files);

        return $pages;
    }

    /** @param  list<Imagick>  $pages */
    public static function tiff(string $file, array $pages): string
    {
        $all = new Imagick;
        foreach ($pages as $page) {
            $all->addImage($page);
        }
        $all->setImageFormat('tiff');
        $all->writeImages('tiff:'.$file, true);

        return $file;
    }
}
