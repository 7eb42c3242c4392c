<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Conll;

use Closure;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Texts\ComingText;
use Skeno\Core\Formats\Texts\Lines;
use Skeno\Core\Formats\Texts\TextsReader;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Printed;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;

/**
 * Reads CoNLL: the first column is the token, the last its tag, in BIO, IOB, BIOES or BILOU; a blank line ends a sentence, `-DOCSTART-` begins a
 * text (a file without any is one text). Columns between stand for what Skeno has no place for and are counted. The text is the tokens joined
 * by a space, sentences by a line break; the tokens stay its tokens.
 */
final class ConllReader implements LabelReader, TextsReader
{
    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function texts(string $file): iterable
    {
        $paths = self::paths(dirname($file));
        $name = basename($file);
        foreach ($this->documents($file) as $n => $document) {
            if ($document instanceof Notice) {
                yield $document;

                continue;
            }
            $document->endSentence();
            if ($document->isTooLong()) {
                yield new Skipped($name, "text {$n}", 'it is longer than '.number_format(Document::LONGEST / 1e6).' MB; lines with -DOCSTART- part texts');

                continue;
            }
            [$tokens, $tags, $line] = [$document->tokens, $document->tags, $document->line];
            [$text, $starts] = self::joined($tokens, $document->sentences);
            $labelled = $tags === [] || array_filter($tags, is_string(...)) !== [];
            $marks = [];
            foreach ($this->spans($tags, $name, $line) as $span) {
                if (is_array($span)) {
                    $marks[] = Mark::of(($this->newId)(), $span[0], Span::of($starts[$span[1]], $starts[$span[2]] + mb_strlen($tokens[$span[2]], 'UTF-8')));
                } else {
                    yield $span;
                }
            }
            [$path, $part] = $paths["{$name} {$n}"] ?? ['', Part::tryFrom(pathinfo($name, PATHINFO_FILENAME))];
            yield new ComingText($path, "text {$n}", $text, [], $marks, ! $labelled ? Labelled::Unlabelled : ($marks === [] ? Labelled::Nothing : Labelled::Objects), null, $part);
        }
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $files = is_dir($path) ? (array) glob("{$path}/*.conll") : [$path];
        if ($files === []) {
            throw UnreadableLabels::because('there is no .conll file in the folder');
        }
        foreach ($files as $file) {
            foreach ($this->texts((string) $file) as $coming) {
                if (! $coming instanceof ComingText) {
                    yield $coming;

                    continue;
                }
                $known = $pictures->find($coming->name === '' ? basename((string) $file).'/'.substr($coming->place, 5) : $coming->name);
                if (is_string($known) || $known->length === null) {
                    yield new Skipped(basename((string) $file), $coming->place, is_string($known) ? $known : 'it is no text');

                    continue;
                }
                $text = $pictures->text($known);
                $marks = $text === null ? $coming->marks : self::laid($coming, $text);
                if ($marks === null) {
                    yield new Skipped(basename((string) $file), $coming->place, "its tokens are not the words of \"{$known->path}\"");
                } else {
                    yield new ReadLabels($known, $marks, $coming->labelled, $coming->part);
                }
            }
        }
    }

    /**
     * The marks on the words of a text whose tokens these are, however they are spaced there.
     *
     * @return ?list<Mark> null when they are not its tokens
     */
    private static function laid(ComingText $coming, Text $text): ?array
    {
        if ($coming->text->body === $text->body) {
            return $coming->marks;
        }
        [$came, $there] = [new Printed($coming->text), new Printed($text)];
        if (! $came->isAs($there)) {
            return null;
        }
        $marks = [];
        foreach ($coming->marks as $mark) {
            $span = $mark->geometry;
            if (! $span instanceof Span) {
                continue;
            }
            [$first, $last] = [$there->place($came->until($span->start)), $there->place($came->until($span->end) - 1)];
            if ($first !== null && $last !== null && $first <= $last) {
                $marks[] = $mark->as(Span::of($first, $last + 1));
            }
        }

        return $marks;
    }

    /**
     * @param  list<string>  $tokens
     * @param  list<int>  $sentences
     * @return array{Text, list<int>} the text, and where each token begins
     */
    private static function joined(array $tokens, array $sentences): array
    {
        $starts = $ends = $parts = [];
        $at = $first = 0;
        foreach ($sentences as $count) {
            $some = array_slice($tokens, $first, $count);
            foreach ($some as $token) {
                $starts[] = $at;
                $ends[] = $at += mb_strlen($token, 'UTF-8');
                $at++;
            }
            $parts[] = implode(' ', $some);
            $first += $count;
        }

        return [Text::of(implode("\n", $parts), Tokens::of($starts, $ends, $sentences)), $starts];
    }

    /**
     * @param  list<?string>  $tags
     * @return iterable<array{string, int, int}|Skipped> spans by class, first and last token
     */
    private function spans(array $tags, string $file, int $line): iterable
    {
        $open = null;
        $known = [];
        foreach ([...$tags, 'O'] as $i => $tag) {
            [$how, $word] = preg_match('/^([BIESLU])-(.+)$/Ds', $tag ?? 'O', $m) === 1 ? [$m[1], $m[2]] : ['O', ''];
            if ($tag !== null && $tag !== 'O' && $how === 'O') {
                yield new Skipped($file, "token {$i} of the text at line {$line}", 'its tag "'.mb_strimwidth($tag, 0, 40, '…').'" is neither O nor begins with B-, I-, E-, L-, S- or U-');
            }
            // it goes on only as the same; every other way begins anew
            $goesOn = in_array($how, ['I', 'E', 'L'], true) && $open !== null && $open[0] === $word;
            if ($open !== null && ! $goesOn) {
                yield from $this->span($open[0], $open[1], $i - 1, $file, $line, $known);
                $open = null;
            }
            if ($how !== 'O' && ! $goesOn) {
                $open = [$word, $i];
            }
            if ($open !== null && in_array($how, ['E', 'L', 'S', 'U'], true)) {
                yield from $this->span($open[0], $open[1], $i, $file, $line, $known);
                $open = null;
            }
        }
    }

    /**
     * @param  array<string, ?string>  $known  keys of classes by word
     * @return list<array{string, int, int}|Skipped>
     */
    private function span(string $word, int $first, int $last, string $file, int $line, array &$known): array
    {
        if (! array_key_exists($word, $known)) {
            $known[$word] = $this->codebook->classNamed($word)?->key;
        }

        return [$known[$word] === null ? new Skipped($file, "token {$first} of the text at line {$line}", 'the codebook has no class "'.mb_strimwidth($word, 0, 60, '…').'"') : [$known[$word], $first, $last]];
    }

    /** @return iterable<int, Document|Notice> by the number of the text, from 1 */
    private function documents(string $file): iterable
    {
        $document = new Document(1, false);
        $n = $extra = 0;
        foreach (Lines::of($file) as $number => $line) {
            if (trim($line) === '') {
                $document->endSentence();

                continue;
            }
            $cells = explode(str_contains($line, "\t") ? "\t" : ' ', trim($line, " \t"));
            if ($cells[0] === '-DOCSTART-') {
                if ($document->isThere()) {
                    yield ++$n => $document;
                }
                $document = new Document($number, true);
            } elseif (preg_match('/^#\s*[\w.]+(?: [\w.]+)*\s*=/', $line) !== 1) {
                // (what begins so is a remark)
                $document->add($cells[0], count($cells) > 1 ? $cells[count($cells) - 1] : null);
                $extra = max($extra, count($cells) - 2);
            }
        }
        if ($document->isThere()) {
            yield ++$n => $document;
        }
        if ($extra > 0) {
            yield $n + 1 => new Notice('columns between the token and its tag were left out');
        }
    }

    /** @return array<string, array{string, ?Part}> path and part of each text by its file and number, where `texts.csv` lies beside it */
    private static function paths(string $folder): array
    {
        $paths = [];
        $stream = @fopen("{$folder}/texts.csv", 'rb');
        if ($stream === false) {
            return [];
        }
        while (($row = fgetcsv($stream, 100_000, ',', '"', '')) !== false) {
            if (isset($row[2]) && ctype_digit((string) $row[1])) {
                $paths["{$row[0]} ".(int) $row[1]] = [mb_scrub(\Skeno\Core\Formats\Csv\Csv::text($row[2])), Part::tryFrom(pathinfo((string) $row[0], PATHINFO_FILENAME))];
            }
        }
        fclose($stream);

        return $paths;
    }
}
