<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Closure;
use Skeno\Core\Codebook\Codebook;

/** The formats labels are written in and read from. Adding one: a case here, a writer, a reader, and their tests. */
enum Format: string
{
    case Coco = 'coco';
    case Voc = 'voc';
    case Yolo = 'yolo';
    case Skeno = 'skeno';

    public function label(): string
    {
        return match ($this) {
            self::Coco => 'COCO boxes',
            self::Voc => 'Pascal VOC',
            self::Yolo => 'YOLO boxes',
            self::Skeno => 'Skeno JSON',
        };
    }

    public function writer(Codebook $codebook): DatasetWriter
    {
        return match ($this) {
            self::Coco => new Coco\CocoWriter($codebook),
            self::Voc => new Voc\VocWriter($codebook),
            self::Yolo => new Yolo\YoloWriter($codebook),
            self::Skeno => new SkenoJson\SkenoJsonWriter,
        };
    }

    /** @param  Closure(): string  $newId gives the id of each mark read */
    public function reader(Codebook $codebook, Closure $newId): LabelReader
    {
        return match ($this) {
            self::Coco => new Coco\CocoReader($codebook, $newId),
            self::Voc => new Voc\VocReader($codebook, $newId),
            self::Yolo => new Yolo\YoloReader($codebook, $newId),
            self::Skeno => new SkenoJson\SkenoJsonReader($codebook, $newId),
        };
    }
}
