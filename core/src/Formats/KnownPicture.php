<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Skeno\Core\Cloud\Rig;
use Skeno\Core\Items\Extent;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Volume\Scan;

/** An item a label file may speak of: a picture, a clip with the number of its frames, a volume with that of its slices and where they lie, a cloud with that of its frames, a document with its pages, a text with the number of its code points. */
final readonly class KnownPicture
{
    public function __construct(public int $id, public string $path, public int $width, public int $height, public ?int $places = null, public ?int $length = null, public ?Sheets $sheets = null, public ?Scan $scan = null, public bool $isCloud = false, public ?Rig $rig = null)
    {
    }

    public function extent(): Extent
    {
        return match (true) {
            $this->length !== null => Extent::text($this->length),
            $this->sheets !== null => Extent::pages($this->sheets),
            $this->isCloud => Extent::space($this->places ?? 1),
            $this->scan !== null => Extent::slices($this->width, $this->height, $this->scan->places()),
            default => Extent::plane($this->width, $this->height, $this->places),
        };
    }
}
