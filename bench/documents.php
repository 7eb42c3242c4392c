<?php

declare(strict_types=1);

use App\Documents\Words;
use App\Files\DocumentStore;
use App\Intake\TakeFiles;
use App\Models\Item;
use Skeno\Core\Codebook\Codebook;
use Skeno\Demo\BinTickets;
use Skeno\Demo\Chance;
use Skeno\Demo\Paper;

/** Documents: one of 300 pages brought in, its pages drawn and their words found; a scanned page read, and how much of it rightly. */
return static function (callable $print, string $folder, array $options): void {
    $project = app(App\Projects\Projects::class)->create('bench documents', '', '', Codebook::fromJson((string) file_get_contents(__DIR__.'/../demo/resources/bin-tickets.json')), null);
    $paper = new Paper(595, 842);
    $paper->SetFont('Helvetica', '', 10);
    for ($page = 1; $page <= 300; $page++) {
        $paper->begin();
        for ($line = 0; $line < 50; $line++) {
            $paper->Text(60, 60 + 15 * $line, "Sheet {$page}, bin ".($line + 1).': gross '.(300 + ($page * 7 + $line * 13) % 200).' kg, tare '.(38 + $line % 7).' kg, as it was weighed on the cart');
        }
    }
    $paper->Output('F', "{$folder}/long.pdf");
    memory_reset_peak_usage();
    $start = microtime(true);
    $outcome = app(TakeFiles::class)->one($project, "{$folder}/long.pdf", 'long.pdf', false);
    $print('a PDF of 300 pages and 270,000 words brought in', sprintf('%.1f s, %d MB', microtime(true) - $start, memory_get_peak_usage() / 1e6), '');
    $item = Item::query()->with('asset')->findOrFail($outcome->item ?? throw new RuntimeException($outcome->reason));
    $store = app(DocumentStore::class);
    $times = [];
    foreach ([120, 200, 299, 50, 250] as $page) {
        $start = microtime(true);
        $store->page($item->asset, $page, 'screen');
        $times[] = 1000 * (microtime(true) - $start);
    }
    sort($times);
    $print('a page nobody has asked for: drawn at 150 px an inch', sprintf('median %.0f, most %.0f ms', $times[2], $times[4]), '≤ 500 ms');
    $start = microtime(true);
    app(Words::class)->of($item->asset, 120);
    $print('its words', sprintf('%.1f ms', 1000 * (microtime(true) - $start)), '');

    // scans of which the truth is known: the words under each true box, as they are read
    [$right, $all, $seconds, $pages] = [0, 0, 0.0, 0];
    foreach (BinTickets::plan() as $ticket) {
        if ($ticket['form'] !== 'tiff') {
            continue;
        }
        $truth = BinTickets::write("{$folder}/scan.tif", 'tiff', new Chance($ticket['seed']));
        $item = Item::query()->with('asset')->findOrFail(app(TakeFiles::class)->one($project, "{$folder}/scan.tif", 'scan.tif', false)->item);
        foreach (array_keys($truth['kinds']) as $page) {
            $start = microtime(true);
            $words = app(Words::class)->of($item->asset, $page)['words'];
            $seconds += microtime(true) - $start;
            $pages++;
            foreach ($truth['marks'] as $mark) {
                if ($mark['place'] === $page && $mark['written'] !== null && $mark['class'] === 'weight_line') {
                    $all++;
                    $right += $words->in(Skeno\Core\Geometry\Box::of(...$mark['box']))->text() === $mark['written'] ? 1 : 0;
                }
            }
        }
    }
    $print("a scanned page read ({$pages} of the demo's tickets)", sprintf('%.1f s', $seconds / $pages), '');
    $print('weight lines of them read without any fault', sprintf('%d of %d', $right, $all), '');
};
