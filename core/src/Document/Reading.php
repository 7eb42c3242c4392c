<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Geometry\Box;
use Skeno\Core\Programs\Bounded;
use Skeno\Core\Programs\TookTooLong;

/** Reads the words of a page from its picture, by Tesseract. */
final readonly class Reading
{
    /**
     * @param  string  $languages  as Tesseract names them, such as `eng` or `eng+deu`; what is installed can be read
     */
    public function __construct(private DocumentLimits $limits, private string $languages = 'eng')
    {
    }

    /**
     * @param  string  $picture  a JPEG or PNG of the page
     * @param  int  $resolution  px an inch
     * @param  float  $scale  px of the page for a px of the picture
     *
     * @throws RefusedDocument
     */
    public function page(string $picture, int $resolution, float $scale = 1.0): PageWords
    {
        $said = '';
        try {
            $ended = (new Bounded($this->limits->memory, 4 * $this->limits->patience))->run(
                ['tesseract', $picture, '-', '--dpi', (string) $resolution, '-l', $this->languages, 'tsv'],
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
