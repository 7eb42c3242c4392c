<?php

declare(strict_types=1);

namespace App\Intake\Kinds;

use App\Files\TextStore;
use App\Models\Asset;
use Skeno\Core\Items\Wish;
use Skeno\Core\Text\Decoding;
use Skeno\Core\Text\RefusedText;
use Skeno\Core\Text\Text;

final class TextKind implements Kind
{
    public function word(): string
    {
        return 'text';
    }

    /** No beginning says that a file is a text: its name does, and it is decoded whole. */
    public function owns(string $head, string $file): bool
    {
        return false;
    }

    public function isNamed(string $name): bool
    {
        return in_array(strtolower(pathinfo($name, PATHINFO_EXTENSION)), ['txt', 'text'], true);
    }

    public function open(string $file, string $name, Wish $wish): Arrival
    {
        $bytes = filesize($file);
        if ($bytes === false || $bytes > TextStore::most()) {
            throw RefusedText::because('it is larger than '.round(TextStore::most() / 1e6, 1).' MB');
        }
        $read = Decoding::of((string) file_get_contents($file));
        if ($read->body === '') {
            throw RefusedText::because('it is empty');
        }

        return new ArrivingText(Text::of($read->body), $read->encoding);
    }

    public function isComplete(Asset $asset): bool
    {
        return true;
    }

    public function complete(Asset $asset): bool
    {
        // what the bench needs is what was kept; the picture for lists is made when it is asked for
        return true;
    }
}
