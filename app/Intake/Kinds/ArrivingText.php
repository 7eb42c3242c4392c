<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\TextStore;
use App\Models\Asset;
use Closure;
use Skeno\Core\Text\Text;

/** A text on its way in: what it says is kept with its row. */
final class ArrivingText implements Arrival
{
    public function __construct(private readonly Text $text, private readonly string $encoding)
    {
    }

    public function hash(string $file): string
    {
        return TextStore::hash($this->text);
    }

    public function keep(string $hash, Closure $progress): string
    {
        return $this->encoding === 'UTF-8' ? '' : "read as {$this->encoding}";
    }

    public function asset(): array
    {
        return TextStore::row($this->text, 'txt', $this->encoding);
    }

    public function written(Asset $asset): void
    {
        TextStore::keep([$asset->id => $this->text]);
    }
}
