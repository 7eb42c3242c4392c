<?php

declare(strict_types=1);

use App\Intake\TakeTexts;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Conll\ConllReader;
use Skeno\Core\Formats\Conll\ConllWriter;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\ComingText;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\WordBreaks;
use Skeno\Demo\Chance;
use Skeno\Demo\ScoutNotes;

/** Texts: many short ones brought in, a million tokens as CoNLL both ways, a long one cut into its tokens. `--notes=N` */
return static function (callable $print, string $folder, array $options): void {
    $codebook = Codebook::fromJson((string) file_get_contents(__DIR__.'/../demo/resources/scout-notes.json'));
    $notes = array_map(static fn (int $i): array => ScoutNotes::note(new Chance("bench/{$i}")), range(1, 500));
    $count = (int) ($options['notes'] ?? 100_000);

    $file = "{$folder}/notes.jsonl";
    $out = fopen($file, 'wb') ?: throw new RuntimeException('no room');
    for ($i = 0; $i < $count; $i++) {
        fwrite($out, json_encode(['id' => "n{$i}", 'text' => "Round {$i}. ".$notes[$i % 500]['text'], 'scout' => "s{$i}"])."\n");
    }
    fclose($out);
    $project = app(App\Projects\Projects::class)->create('bench texts', '', '', $codebook, null);
    memory_reset_peak_usage();
    $start = microtime(true);
    $taken = app(TakeTexts::class)($project, Format::Jsonl, $file, 'notes.jsonl', Columns::guessed(), true, false);
    $print(number_format($count).' notes as JSONL brought in', sprintf('%.1f s, %d MB', microtime(true) - $start, memory_get_peak_usage() / 1e6), $count === 100_000 ? '≤ 60 s' : '');
    $taken['taken'] === $count || throw new RuntimeException("{$taken['taken']} of {$count} came in");

    // a million tokens in texts of about a thousand
    $id = 0;
    $items = [];
    $tokens = 0;
    for ($n = 0; $tokens < 1_000_000; $n++) {
        $body = '';
        $marks = [];
        for ($k = 0; $k < 20; $k++) {
            $note = $notes[($n * 20 + $k) % 500];
            $at = mb_strlen($body);
            $body .= "{$note['text']}\n";
            foreach ($note['spans'] as $span) {
                $marks[] = Mark::of(sprintf('01%024d', ++$id), $span['class'], Span::of($at + $span['start'], $at + $span['end']));
            }
        }
        $text = Text::of($body);
        $tokens += WordBreaks::of($text)->count();
        $items[] = new DatasetItem(sprintf('%06d', $n), 0, 0, hash('sha256', $body), $marks === [] ? Labelled::Nothing : Labelled::Objects, $marks, null, 'accepted', 1, null, null, null, $text);
    }
    mkdir("{$folder}/conll");
    $start = microtime(true);
    (new ConllWriter($codebook))->write(new Dataset('bench', $codebook, static fn (): array => $items, static fn (): string => ''), new Folder("{$folder}/conll"), false);
    $written = microtime(true) - $start;
    $start = microtime(true);
    $read = $spans = 0;
    $new = static function () use (&$id): string {
        return sprintf('01%024d', ++$id);
    };
    foreach ((new ConllReader($codebook, $new))->texts("{$folder}/conll/dataset.conll") as $coming) {
        if ($coming instanceof ComingText) {
            $read += $coming->text->tokens?->count() ?? 0;
            $spans += count($coming->marks);
        }
    }
    $read === $tokens || throw new RuntimeException("{$read} of {$tokens} tokens were read");
    $print(sprintf('CoNLL of %s tokens and %s spans: written; read', number_format($tokens), number_format($spans)), sprintf('%.1f; %.1f s', $written, microtime(true) - $start), '≤ 10 s');

    $body = '';
    while (strlen($body) < 1_000_000) {
        $body .= $notes[strlen($body) % 500]['text']."\n";
    }
    $start = microtime(true);
    $count = WordBreaks::of(Text::of($body))->count();
    $print(sprintf('a text of 1 MB cut into %s tokens', number_format($count)), sprintf('%.0f ms', 1000 * (microtime(true) - $start)), '');
};
