<?php

declare(strict_types=1);

namespace App\Intake;

use App\Http\Refusal;
use App\Jobs\TakeUpload;
use App\Models\Import;
use App\Models\ImportFile;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\InvalidValue;

/** Files that arrive in pieces and go on after a break: the server says how much it has, the browser sends from there. */
final class Uploads
{
    public function __construct(private readonly Beside $beside)
    {
    }

    public function begin(Import $import, string $path, int $bytes): ImportFile
    {
        $safe = ZipSource::safePath($path);
        if ($safe === null || mb_strlen($safe) > 250) {
            throw InvalidValue::at('path', $path, 'a relative path of at most 250 characters that stays in its folder');
        }
        if ($bytes < 1 || $bytes > config()->integer('skeno.upload.max_bytes')) {
            throw InvalidValue::at('bytes', $bytes, 'a size from 1 byte to '.round(config()->integer('skeno.upload.max_bytes') / 1e9, 1).' GB');
        }
        $free = @disk_free_space(storage_path('uploads'));
        if ($free !== false && $free < $bytes + 50_000_000) {
            throw Refusal::because('disk_full', 'there is no room for this file on the server; nothing was changed', 507);
        }

        return DB::transaction(static function () use ($import, $safe, $bytes): ImportFile {
            if ($import->state === 'done') {
                $import->update(['state' => 'receiving']);
            }
            $file = ImportFile::query()->firstOrCreate(['import_id' => $import->id, 'path' => $safe], ['bytes' => $bytes]);
            if ($file->bytes !== $bytes && $file->state === 'receiving') {
                // another file of the same name: what had come of the first is of no use
                $file->update(['bytes' => $bytes, 'received' => 0]);
            }

            return $file->refresh();
        });
    }

    /** @param  resource  $piece */
    public function append(ImportFile $file, int $offset, $piece): ImportFile
    {
        $lock = fopen($this->place($file).'.lock', 'c');
        if ($lock === false || ! flock($lock, LOCK_EX)) {
            throw Refusal::because('disk_full', 'the piece could not be stored; nothing was changed', 507);
        }
        try {
            $file->refresh();
            if ($file->state !== 'receiving') {
                return $file;
            }
            if ($offset !== $file->received) {
                throw Refusal::because('wrong_offset', "the next piece begins at byte {$file->received}", 409, ['received' => $file->received]);
            }
            $out = fopen($this->place($file), 'c+b');
            if ($out === false) {
                throw Refusal::because('disk_full', 'the piece could not be stored; nothing was changed', 507);
            }
            ftruncate($out, $offset);
            fseek($out, $offset);
            $written = (int) stream_copy_to_stream($piece, $out, $file->bytes - $offset);
            $flushed = fflush($out);
            fclose($out);
            if (! $flushed || ($written === 0 && $file->bytes > $offset)) {
                throw Refusal::because('disk_full', 'the piece could not be stored; what came before it is kept', 507);
            }
            $file->received = $offset + $written;
            if ($file->received === $file->bytes) {
                $file->state = 'received';
            }
            $file->save();
        } finally {
            flock($lock, LOCK_UN);
            fclose($lock);
        }
        if ($file->state === 'received') {
            @unlink($this->place($file).'.lock');
            // label files are read together, once all of them are here
            if ($file->import->options === []) {
                dispatch(new TakeUpload($file->id));
            }
        }

        return $file;
    }

    /** No more files will come; the import is done once those that came are taken or refused. */
    public function finish(Import $import): void
    {
        $import->update(['state' => 'working']);
        $this->finishIfDone($import);
    }

    public function finishIfDone(Import $import): void
    {
        $import->refresh();
        if ($import->state === 'working' && $import->files()->whereIn('state', ['receiving', 'received'])->doesntExist()) {
            $this->beside->notice($import);
            $import->update(['state' => 'done']);
        }
    }

    public function place(ImportFile $file): string
    {
        return storage_path("uploads/{$file->id}");
    }
}
