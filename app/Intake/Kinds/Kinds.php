<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use Skeno\Core\Items\RefusedFile;

/** The kinds of items there are. Adding one: a `Kind` with its `Arrival`, and its line here. */
final class Kinds
{
    /** @var array<string, Kind> by word */
    private readonly array $kinds;

    public function __construct(VolumeKind $volumes, CloudKind $clouds, DocumentKind $documents, PictureKind $pictures, ClipKind $clips, TextKind $texts)
    {
        // (a TIFF of several pages is a document before it is a picture)
        $this->kinds = [$volumes->word() => $volumes, $clouds->word() => $clouds, $documents->word() => $documents, $pictures->word() => $pictures, $clips->word() => $clips, $texts->word() => $texts];
    }

    public function of(string $word): Kind
    {
        return $this->kinds[$word];
    }

    /**
     * The kind whose files begin with these bytes; of bytes nobody knows, the one the name is of says why they are not.
     *
     * @throws RefusedFile
     */
    public function tell(string $file, string $name): Kind
    {
        $head = (string) @file_get_contents($file, false, null, 0, 1024);
        foreach ($this->kinds as $kind) {
            if ($kind->owns($head, $file)) {
                return $kind;
            }
        }
        foreach ($this->kinds as $kind) {
            if ($kind->isNamed($name)) {
                return $kind;
            }
        }

        return $this->kinds['picture'];
    }
}
