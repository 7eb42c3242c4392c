<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Documents\Readings;
use App\Files\AssetStore;
use App\Files\DocumentStore;
use App\Models\Asset;
use Closure;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Items\Sheets;

/** A document on its way in: it is whole when its first page is drawn. */
final class ArrivingDocument implements Arrival
{
    /** px an inch at which a document is known by its bytes alone. */
    private const PLAIN = 150;

    /** SHA-256 of the bytes of the file, and what the document is known by. */
    private string $bytes = '';

    private string $known = '';

    public function __construct(
        private readonly string $file,
        private readonly string $format,
        private readonly Sheets $sheets,
        private readonly int $resolution,
        private readonly ?Pdf $pdf,
        private readonly AssetStore $assets,
        private readonly DocumentStore $documents,
    ) {
    }

    /** The same file drawn at another resolution is another document: its marks are in other px. */
    public function hash(string $file): string
    {
        $this->bytes = (string) hash_file('sha256', $file);

        return $this->pdf === null || $this->resolution === self::PLAIN ? $this->bytes : hash('sha256', "{$this->bytes} at {$this->resolution}");
    }

    public function keep(string $hash, Closure $progress): string
    {
        $this->bytes = $this->bytes === '' ? (string) hash_file('sha256', $this->file) : $this->bytes;
        $this->known = $hash;
        $this->assets->keep($this->file, $this->bytes);
        $this->documents->page(new Asset(['sha256' => $hash] + $this->asset()), 0, 'thumb');

        return implode('; ', array_filter([
            $this->sheets->count === 1 ? '1 page' : number_format($this->sheets->count).' pages',
            $this->pdf !== null && ! Pdf::wordsOf($this->file, 0, $this->resolution, DocumentStore::limits())->isEmpty() ? 'with a text layer' : 'words are read from its pictures',
            $this->pdf?->hasScripts === true ? 'it carries scripts, which are never run' : '',
        ]));
    }

    public function asset(): array
    {
        [$width, $height] = $this->sheets->size(0);

        return [
            'kind' => 'document', 'bytes' => (int) filesize($this->file), 'format' => $this->format, 'width' => $width, 'height' => $height, 'orientation' => 1, 'depth' => 8, 'color_space' => 'rgb',
            'facts' => ['pages' => $this->sheets->count, 'sheets' => $this->sheets->toArray(), 'resolution' => $this->resolution] + ($this->known === $this->bytes ? [] : ['file' => $this->bytes]),
        ];
    }

    public function written(Asset $asset): void
    {
        // all of them later, behind: a page that is asked for before is read then
        Readings::begin($asset, $this->sheets->count);
    }
}
