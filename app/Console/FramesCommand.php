<?php

declare(strict_types=1);

namespace App\Console;

use App\Files\ClipStore;
use App\Models\Item;
use Illuminate\Support\Facades\File;
use RuntimeException;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\RefusedFile;

final class FramesCommand extends SkenoCommand
{
    protected $signature = 'skeno:frames {project : id or exact name} {item : id or path of a clip}
        {--frames= : numbers from 0, with commas} {--every= : every Nth, from the first} {--out= : a folder} {--json}';

    protected $description = 'Write exact frames of a clip, decoded from its original, as 000017.png (counted from 0)';

    protected function work(): int
    {
        $project = $this->project();
        $word = $this->text('item');
        $item = Item::query()->where('project_id', $project->id)->where(static fn ($query) => $query->where('path', $word)->orWhere('id', ctype_digit($word) ? (int) $word : 0))->with('asset')->orderByRaw('path = ? desc', [$word])->first()
            ?? throw InvalidValue::at('ITEM', $word, 'the id or path of an item of this project');
        $places = $item->frames() ?? throw InvalidValue::at('ITEM', $word, 'a clip');
        $frames = $this->frames($places);
        $out = $this->word('out') ?? throw InvalidValue::at('--out', null, 'a folder');
        if (is_file($out) || (is_dir($out) && (new \FilesystemIterator($out))->valid())) {
            throw InvalidValue::at('--out', $out, 'a place where nothing is yet');
        }
        // all of them are there, or none
        $part = rtrim($out, '/').'.part-'.bin2hex(random_bytes(4));
        if (! @mkdir($part, 0o770, true)) {
            throw new RuntimeException("\"{$part}\" can't be made: is the disk full or the folder not writable?");
        }
        try {
            $written = app(ClipStore::class)->exact($item->asset, $frames, $part);
            if (is_dir($out)) {
                rmdir($out);
            }
            rename($part, $out);
        } catch (RefusedFile $e) {
            throw new RuntimeException("{$item->path}: {$e->getMessage()}", 0, $e);
        } finally {
            File::deleteDirectory($part);
        }
        $this->line($this->option('json') === true
            ? $this->json(['item' => $item->id, 'path' => $item->path, 'frames' => array_keys($written), 'out' => $out])
            : sprintf('%d frames of %s written to %s.', count($written), $item->path, $out));

        return self::DONE;
    }

    /** @return non-empty-list<int> */
    private function frames(int $places): array
    {
        [$list, $every] = [$this->word('frames'), $this->word('every')];
        if (($list === null) === ($every === null)) {
            throw InvalidValue::at('--frames', $list, 'either --frames or --every');
        }
        if ($every !== null) {
            return preg_match('/^[1-9]\d{0,6}$/D', $every) === 1 ? range(0, $places - 1, (int) $every) : throw InvalidValue::at('--every', $every, 'a whole number from 1');
        }
        $frames = [];
        foreach (explode(',', (string) $list) as $number) {
            $number = trim($number);
            if (! ctype_digit($number) || strlen($number) > 8 || (int) $number >= $places) {
                throw InvalidValue::at('--frames', $number, 'frames from 0 to '.($places - 1));
            }
            $frames[(int) $number] = (int) $number;
        }

        return array_values($frames);
    }
}
