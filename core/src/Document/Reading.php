<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Imagick;
use ImagickException;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Programs\Bounded;
use Skeno\Core\Programs\TookTooLong;

/** Reads the words of a page from its picture, by Tesseract. */
final readonly class Reading
{
    /** Inches the shorter side of a sheet of paper has, where nobody says. */
    private const PAPER = 8.3;

    /** px an inch small print is read well at, below which a page is enlarged first, and to which: single figures in tables are lost otherwise. */
    private const ENOUGH = 250;

    private const BEST = 300;

    /** px a page is enlarged to at most. */
    private const WIDEST = 6000;

    /**
     * @param  string  $languages  as Tesseract names them, such as `eng` or `eng+deu`; what is installed can be read
     */
    public function __construct(private DocumentLimits $limits, private string $languages = 'eng')
    {
    }

    /**
     * @param  string  $picture  a JPEG or PNG of the page
     * @param  int  $resolution  px an inch; 0: not known, and told by how wide a sheet of paper is
     * @param  string  $scratch  a folder for a moment
     *
     * @throws RefusedDocument
     */
    public function page(string $picture, int $resolution, string $scratch): PageWords
    {
        $enlarged = "{$scratch}/read-".bin2hex(random_bytes(6)).'.jpg';
        try {
            $image = new Imagick($picture);
            [$width, $height] = [$image->getImageWidth(), $image->getImageHeight()];
            $resolution = $resolution > 0 ? $resolution : max(50, min(600, (int) round(min($width, $height) / self::PAPER)));
            $by = $resolution < self::ENOUGH ? min(self::BEST / $resolution, self::WIDEST / max($width, $height), 2.0) : 1.0;
            if ($by < 1.1) {
                return $this->read($picture, $resolution, 1.0);
            }
            $image->resizeImage((int) round($width * $by), (int) round($height * $by), Imagick::FILTER_TRIANGLE, 1);
            $image->setImageFormat('jpeg');
            $image->setImageCompressionQuality(92);
            $image->writeImage($enlarged);

            return $this->read($enlarged, (int) round($resolution * $by), 1 / $by);
        } catch (ImagickException) {
            throw RefusedDocument::because("its picture can't be read");
        } finally {
            @unlink($enlarged);
        }
    }

    /** @param  float  $scale  px of the page for a px of the picture */
    private function read(string $picture, int $resolution, float $scale): PageWords
    {
        $said = '';
        try {
            $ended = (new Bounded($this->limits->memory, 4 * $this->limits->patience))->run(
                // as one column of rows: its own search for columns takes those of a table for pictures, and loses their words (of 60 lines of bin
                // tickets 46 are read without a fault so, 15 by themselves). What stands beside what is worked out by PageWords
                ['tesseract', $picture, '-', '--dpi', (string) $resolution, '-l', $this->languages, '--psm', '4', 'tsv'],
                static function (string $out) use (&$said): void {
                    $said = strlen($said) > 20_000_000 ? $said : $said.$out;
                },
                // one core of the machine is enough for what nobody waits for
                ['OMP_THREAD_LIMIT' => '1'],
            );
        } catch (TookTooLong) {
            throw RefusedDocument::because('reading its words takes longer than '.(4 * $this->limits->patience).' s');
        }
        if ($ended->code !== 0) {
            throw RefusedDocument::because(str_contains($ended->complaint, 'Failed loading language') ? "words in {$this->languages} can't be read here: Tesseract lacks that language" : "its words can't be read");
        }

        return self::table($said, $scale);
    }

    /**
     * The words of Tesseract's table: level, page, block, paragraph, line, word, left, top, width, height, confidence (0 to 100), text.
     *
     * @param  string  $tsv  with its line of names
     */
    public static function table(string $tsv, float $scale = 1.0): PageWords
    {
        $words = $lines = [];
        foreach (explode("\n", $tsv) as $row) {
            $cells = explode("\t", rtrim($row, "\r"), 12);
            $text = count($cells) === 12 && $cells[0] === '5' ? PageWords::clean($cells[11]) : null;
            if ($text === null) {
                continue;
            }
            $line = "{$cells[2]}.{$cells[3]}.{$cells[4]}";
            $lines[$line] ??= count($lines) + 1;
            $words[] = new Word($text, Box::of((float) $cells[6], (float) $cells[7], max(0.0, (float) $cells[8]), max(0.0, (float) $cells[9]))->scaled($scale), $lines[$line], max(0.0, min(1.0, (float) $cells[10] / 100)));
        }

        return PageWords::of($words);
    }
}
