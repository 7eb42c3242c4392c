<?php

declare(strict_types=1);

namespace App\Documents;

use App\Files\DocumentStore;
use App\Models\Asset;
use App\Support\Refusal;
use Closure;
use Illuminate\Contracts\Cache\LockTimeoutException;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Document\PageWords;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Document\Reading as Reader;
use Skeno\Core\Document\RefusedDocument;

/** The words of pages: those the text layer of a file has, others read from the picture of the page, once. */
final class Words
{
    /** Seconds one reader of a page waits for another. */
    private const WAIT = 30;

    /** Pages whose words are kept at a time. */
    private const TOGETHER = 20;

    public function __construct(private readonly DocumentStore $documents)
    {
    }

    /**
     * The words of a page, read now when nobody has yet: a second or two.
     *
     * @return array{words: PageWords, source: string, reason: string} source: layer, read or failed, with the reason
     */
    public function of(Asset $asset, int $place): array
    {
        // outside of any transaction: others write meanwhile
        try {
            return $this->known($asset->id, $place) ?? Cache::lock("page-{$asset->id}-{$place}", self::WAIT * 4)->block(self::WAIT, fn (): array => $this->read($asset, $place));
        } catch (LockTimeoutException) {
            throw Refusal::because('page_is_read', 'this page is being read; try again in a moment');
        }
    }

    /** @return ?array{words: PageWords, source: string, reason: string} null: nobody has read it */
    public function known(int $asset, int $place): ?array
    {
        $row = DB::table('pages')->where('asset_id', $asset)->where('place', $place)->first(['words', 'source', 'reason']);

        return $row === null ? null : ['words' => PageWords::fromArray(json_decode((string) $row->words, true)), 'source' => (string) $row->source, 'reason' => (string) $row->reason];
    }

    /**
     * Keeps the words of pages. What is there already stays.
     *
     * @param  array<int, PageWords>  $words  by place
     */
    public static function keep(int $asset, array $words, string $source, string $reason = ''): void
    {
        $rows = [];
        foreach ($words as $place => $page) {
            $rows[] = ['asset_id' => $asset, 'place' => $place, 'words' => json_encode($page->toArray(), JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR), 'source' => $source, 'reason' => mb_strimwidth($reason, 0, 250, '…')];
        }
        foreach (array_chunk($rows, 100) as $some) {
            DB::table('pages')->insertOrIgnore($some);
        }
    }

    /**
     * Keeps the words of the text layer of all pages that have one, some pages at a time.
     *
     * @param  Closure(): void  $alive  called now and then; may throw to stop
     *
     * @throws RefusedDocument
     */
    public function layers(Asset $asset, Closure $alive): void
    {
        $some = [];
        Pdf::words($this->documents->original($asset), DocumentStore::resolution($asset), DocumentStore::limits(), static function (int $place, PageWords $words) use ($asset, $alive, &$some): void {
            if (! $words->isEmpty()) {
                $some[$place] = $words;
            }
            if (count($some) >= self::TOGETHER) {
                $alive();
                self::keep($asset->id, $some, 'layer');
                $some = [];
            }
        });
        self::keep($asset->id, $some, 'layer');
    }

    /** The words of the text layer of a page; null: it has none. */
    private function layer(Asset $asset, int $place): ?PageWords
    {
        $words = Pdf::wordsOf($this->documents->original($asset), $place, DocumentStore::resolution($asset), DocumentStore::limits());

        return $words->isEmpty() ? null : $words;
    }

    /** @return array{words: PageWords, source: string, reason: string} */
    private function read(Asset $asset, int $place): array
    {
        // who held the lock before may have read it
        $known = $this->known($asset->id, $place);
        if ($known !== null) {
            return $known;
        }
        try {
            $layer = $asset->format === 'pdf' ? $this->layer($asset, $place) : null;
            if ($layer !== null) {
                self::keep($asset->id, [$place => $layer], 'layer');

                return ['words' => $layer, 'source' => 'layer', 'reason' => ''];
            }
            $words = (new Reader(DocumentStore::limits(), config()->string('skeno.document.languages')))->page($this->documents->page($asset, $place, 'full'), DocumentStore::resolution($asset), DocumentStore::scratch());
            [$source, $reason] = ['read', ''];
        } catch (RefusedDocument $e) {
            [$words, $source, $reason] = [PageWords::of([]), 'failed', $e->getMessage()];
        }
        self::keep($asset->id, [$place => $words], $source, $reason);

        return ['words' => $words, 'source' => $source, 'reason' => $reason];
    }
}
