<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Import;
use App\Models\ImportFile;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Cloud\Scene;
use Skeno\Core\Document\PageGroups;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\InvalidValue;
use Skeno\Core\Volume\SliceGroups;

/** Files that arrive in pieces and go on after a break: the server says how much it has, the browser sends from there. */
final class Uploads
{
    public function __construct(private readonly Beside $beside)
    {
    }

    /**
     * Files that will come, all of them or none.
     *
     * @param  non-empty-list<array{path: string, bytes: int}>  $files
     * @return non-empty-list<ImportFile> in their order
     */
    public function begin(Import $import, array $files): array
    {
        $most = config()->integer('skeno.upload.max_bytes');
        $all = 0;
        $safe = [];
        foreach ($files as $i => ['path' => $path, 'bytes' => $bytes]) {
            $where = count($files) > 1 ? "files[{$i}]." : '';
            $safe[$i] = ZipSource::safePath($path) ?? '';
            if ($safe[$i] === '' || mb_strlen($safe[$i]) > 250) {
                throw InvalidValue::at("{$where}path", $path, 'a relative path of at most 250 characters that stays in its folder');
            }
            if ($bytes < 1 || $bytes > $most) {
                throw InvalidValue::at("{$where}bytes", $bytes, 'a size from 1 byte to '.round($most / 1e9, 1).' GB');
            }
            $all += $bytes;
        }
        $free = @disk_free_space(storage_path('uploads'));
        if ($free !== false && $free < $all + 50_000_000) {
            throw Refusal::because('disk_full', count($files) === 1 ? 'there is no room for this file on the server; nothing was changed' : 'there is no room for these files on the server; nothing was changed');
        }

        return DB::transaction(static function () use ($import, $files, $safe): array {
            $import->refresh();
            if ($import->state === 'cancelled') {
                throw Refusal::because('import_cancelled', 'this import has been stopped; begin another');
            }
            if ($import->state === 'done') {
                $import->update(['state' => 'receiving']);
            }

            return array_map(static function (array $file, string $path) use ($import): ImportFile {
                $made = ImportFile::query()->firstOrCreate(['import_id' => $import->id, 'path' => $path], ['bytes' => $file['bytes']]);
                if ($made->bytes !== $file['bytes'] && $made->state === 'receiving') {
                    // another file of the same name: what had come of the first is of no use
                    $made->update(['bytes' => $file['bytes'], 'received' => 0]);
                }

                return $made->refresh();
            }, $files, $safe);
        });
    }

    /** @param  resource  $piece */
    public function append(ImportFile $file, int $offset, $piece): ImportFile
    {
        $lock = fopen($this->place($file).'.lock', 'c');
        if ($lock === false || ! flock($lock, LOCK_EX)) {
            throw Refusal::because('disk_full', 'the piece could not be stored; nothing was changed');
        }
        try {
            $file->refresh();
            if ($file->state !== 'receiving') {
                return $file;
            }
            if ($offset !== $file->received) {
                throw Refusal::because('wrong_offset', "the next piece begins at byte {$file->received}", ['received' => $file->received]);
            }
            $out = fopen($this->place($file), 'c+b');
            if ($out === false) {
                throw Refusal::because('disk_full', 'the piece could not be stored; nothing was changed');
            }
            ftruncate($out, $offset);
            fseek($out, $offset);
            $written = (int) stream_copy_to_stream($piece, $out, $file->bytes - $offset);
            $flushed = fflush($out);
            fclose($out);
            if (! $flushed || ($written === 0 && $file->bytes > $offset)) {
                throw Refusal::because('disk_full', 'the piece could not be stored; what came before it is kept');
            }
            DB::transaction(static function () use ($file, $offset, $written): void {
                $file->received = $offset + $written;
                if ($file->received === $file->bytes) {
                    $file->state = 'received';
                }
                $file->save();
                // with the row that waits for it; label files are read together, once all of them are here
                if ($file->state === 'received' && ! $file->import->isOfLabels() && ! self::waits($file)) {
                    dispatch(new TakeUpload($file->id));
                }
            });
        } finally {
            flock($lock, LOCK_UN);
            fclose($lock);
        }
        if ($file->state === 'received') {
            @unlink($this->place($file).'.lock');
        }

        return $file;
    }

    /** No more files will come; the import is done once those that came are taken or refused. */
    public function finish(Import $import): void
    {
        DB::transaction(static function () use ($import): void {
            if (Import::query()->whereKey($import->id)->where('state', 'receiving')->update(['state' => 'working']) > 0) {
                if ($import->isOfLabels()) {
                    dispatch(new TakeLabelFile($import->id));
                } elseif (self::gathers($import)) {
                    dispatch(new TakeBundles($import->id));
                }
            }
        });
        if (! $import->isOfLabels()) {
            $this->finishIfDone($import);
        }
    }

    public function finishIfDone(Import $import): void
    {
        $import->refresh();
        if ($import->state === 'working' && ! $import->isOfLabels() && $import->files()->whereIn('state', ['receiving', 'received'])->doesntExist()) {
            $this->beside->notice($import);
            Import::query()->whereKey($import->id)->where('state', 'working')->update(['state' => 'done']);
        }
    }

    /** Stops an import: what is taken stays, what has not been taken goes. */
    public function cancel(Import $import): Import
    {
        $files = DB::transaction(static function () use ($import): array {
            Import::query()->whereKey($import->id)->whereIn('state', ['receiving', 'working', 'failed'])->update(['state' => 'cancelled']);
            $left = $import->files()->whereIn('state', ['receiving', 'received', 'failed'])->pluck('id')->all();
            $import->files()->whereIn('state', ['receiving', 'received', 'failed'])->update(['state' => 'passed', 'reason' => 'cancelled']);

            return $left;
        });
        foreach (ImportFile::query()->whereIn('id', $files)->get() as $file) {
            @unlink($this->place($file));
            @unlink($this->place($file).'.lock');
        }

        return $import->refresh();
    }

    /** Takes up what has failed once more; the files are still here. */
    public function retry(Import $import): Import
    {
        return DB::transaction(static function () use ($import): Import {
            $files = $import->files()->where('state', 'failed')->pluck('id');
            if ($import->state !== 'failed' && $files->isEmpty()) {
                throw Refusal::because('not_failed', 'only what has failed can be tried again');
            }
            $import->files()->whereIn('id', $files->all())->update(['state' => 'received', 'reason' => '']);
            $import->update(['state' => 'working', 'error' => '']);
            foreach ($import->isOfLabels() ? [] : ImportFile::query()->whereIn('id', $files->all())->with('import')->get() as $file) {
                if (! self::waits($file)) {
                    dispatch(new TakeUpload($file->id));
                }
            }
            if ($import->isOfLabels()) {
                dispatch(new TakeLabelFile($import->id));
            } elseif (self::gathers($import)) {
                dispatch(new TakeBundles($import->id));
            }

            return $import->refresh();
        });
    }

    /** Whether an import holds files that are put together when all of them are here. */
    private static function gathers(Import $import): bool
    {
        return $import->wish()->gathers() || $import->files()->where('state', 'received')->where(static fn ($name) => $name->where('path', 'like', '%.dcm')->orWhere('path', 'like', '%.dicom')->orWhere('path', 'like', '%.ima'))->exists();
    }

    /** Whether a file is a part of an item that is put together when all of it is here: a page, a slice, a frame, or a list of pages. */
    public static function waits(ImportFile $file): bool
    {
        $wish = $file->import->wish();

        return SliceGroups::isNamed($file->path)
            || $wish->gathersPictures() && (PictureFormat::ofName($file->path) !== null || basename($file->path) === PageGroups::LIST)
            || $wish->frames && Scene::mayHold($file->path);
    }

    public function place(ImportFile $file): string
    {
        return storage_path("uploads/{$file->id}");
    }
}
