<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\AssetStore;
use App\Files\DocumentStore;
use App\Models\Asset;
use Skeno\Core\Document\Bundle;
use Skeno\Core\Document\Pdf;
use Skeno\Core\Document\RefusedDocument;
use Skeno\Core\Document\TiffPages;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Items\Wish;

/** Documents: PDFs, TIFFs of several pages, page pictures that were put together. */
final class DocumentKind implements Kind
{
    /** Pages are drawn for so long before somebody else has a turn. */
    private const SECONDS = 8;

    public function __construct(private readonly AssetStore $assets, private readonly DocumentStore $documents)
    {
    }

    public function word(): string
    {
        return 'document';
    }

    public function owns(string $head, string $file): bool
    {
        return Pdf::isOne($head) || (PictureFormat::sniff($head) === PictureFormat::Tiff && TiffPages::isMany($file));
    }

    public function isNamed(string $name): bool
    {
        return in_array(strtolower(pathinfo($name, PATHINFO_EXTENSION)), ['pdf', Bundle::ENDING], true);
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        $head = (string) @file_get_contents($file, false, null, 0, 1024);
        $limits = DocumentStore::limits();
        if (Pdf::sniff($head)) {
            $pdf = Pdf::open($file, $wish->resolution ?? config()->integer('skeno.document.resolution'), $limits);

            return new ArrivingDocument($file, 'pdf', $pdf->sheets, $pdf->resolution, $pdf, $this->assets, $this->documents);
        }
        if (PictureFormat::sniff($head) === PictureFormat::Tiff) {
            return new ArrivingDocument($file, 'tiff', Sheets::of(TiffPages::of($file, $limits)->sizes), 0, null, $this->assets, $this->documents);
        }
        if (str_starts_with($head, "PK\x03\x04")) {
            return new ArrivingDocument($file, Bundle::ENDING, Bundle::open($file, $limits, DocumentStore::pictures(), DocumentStore::scratch())->sheets, 0, null, $this->assets, $this->documents);
        }
        throw RefusedDocument::because('the name says pdf, but this is none');
    }

    public function isComplete(Asset $asset): bool
    {
        return $asset->derived_at !== null;
    }

    /** All pages, so that turning them waits for none; of many some at a time. */
    public function complete(Asset $asset): bool
    {
        $began = microtime(true);
        for ($place = 0; $place < DocumentStore::sheets($asset)->count; $place++) {
            $this->documents->page($asset, $place, 'screen');
            $this->documents->page($asset, $place, 'thumb');
            if (microtime(true) - $began > self::SECONDS) {
                return $place === DocumentStore::sheets($asset)->count - 1;
            }
        }

        return true;
    }
}
