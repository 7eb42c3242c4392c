<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Import;
use App\Models\ImportFile;
use App\Support\Cancelled;
use App\Support\Job;
use App\Support\Lock;
use Illuminate\Database\QueryException;
use Throwable;

/**
 * Takes one uploaded file (a picture, a clip, or a zip with many) into its project. Run again after a break, it goes on. The file goes only when
 * all of it has been taken or refused by reason; anything else is tried again, then kept and said.
 */
final class TakeUpload extends Job
{
    /** Copies for the screen asked for at a time. */
    private const LOT = 50;

    /** After which a zip is handed on to a job that follows. */
    private const SECONDS = 1500;

    public function __construct(private readonly int $file)
    {
    }

    public function subject(): string
    {
        return "file:{$this->file}";
    }

    public function handle(TakeFiles $intake, Uploads $uploads, Beside $beside): void
    {
        $file = ImportFile::query()->with('import.project')->find($this->file);
        if ($file === null || $file->state !== 'received') {
            return;
        }
        $import = $file->import;
        $source = $uploads->place($file);
        if (! is_file($source)) {
            $file->update(['state' => 'failed', 'reason' => 'the file is gone from the server; send it again']);
            $uploads->finishIfDone($import);

            return;
        }
        $isZip = (string) file_get_contents($source, false, null, 0, 4) === "PK\x03\x04";
        $began = microtime(true);
        $progress = static function (string $words) use ($import, $file): void {
            if ($import->refresh()->state === 'cancelled') {
                throw Cancelled::byHand();
            }
            try {
                $file->update(['progress' => mb_strimwidth($words, 0, 250, '…')]);
            } catch (QueryException $e) {
                // minutes of decoding are not thrown away because somebody else writes for long: the next word of progress comes in a second
                if (! Lock::isBusy($e)) {
                    throw $e;
                }
            }
        };
        $items = [];
        try {
            $outcomes = $isZip
                ? $intake->zip($import->project, $source, $import->again, dirname($file->path) === '.' ? '' : dirname($file->path).'/', $file->path, static fn (string $from, string $path) => $beside->keep($import, $from, $path), $progress, $import->wish())
                : [$intake->one($import->project, $source, $file->path, $import->again, $progress, $import->wish())];
            foreach ($outcomes as $n => $outcome) {
                if ($isZip && $n % 20 === 0 && $import->refresh()->state === 'cancelled') {
                    throw Cancelled::byHand();
                }
                $this->write($import, $isZip ? null : $file, $outcome);
                if (! $isZip && $outcome->state === 'passed') {
                    $beside->keep($import, $source, $file->path);
                }
                if ($outcome->state === 'taken' && $outcome->item !== null) {
                    $items[] = $outcome->item;
                }
                if (count($items) >= self::LOT) {
                    $intake->derive($items, false);
                    $items = [];
                }
                if ($isZip && microtime(true) - $began > self::SECONDS) {
                    // a zip of many clips takes longer than a job may: another one goes on, past what is known by then
                    dispatch(new self($file->id));

                    return;
                }
            }
            // a zip refused as a whole says so itself
            if ($isZip && $file->refresh()->state === 'received') {
                $file->update(['state' => 'passed', 'reason' => 'unpacked']);
            }
        } catch (Cancelled) {
            $file->update(['state' => 'passed', 'reason' => 'cancelled; what was taken before stays']);
        } finally {
            $intake->derive($items, false);
        }
        @unlink($source);
        $uploads->finishIfDone($import);
    }

    /** Not taken after several tries: the file is kept until somebody tries again or lets it go. */
    public function failed(?Throwable $e): void
    {
        $file = ImportFile::query()->with('import')->find($this->file);
        if ($file !== null && $file->state === 'received') {
            $file->update(['state' => 'failed', 'reason' => mb_strimwidth('could not be taken in ('.self::why($e).'); it is kept', 0, 250, '…')]);
            app(Uploads::class)->finishIfDone($file->import);
        }
    }

    private function write(Import $import, ?ImportFile $file, Outcome $outcome): void
    {
        $row = ['state' => $outcome->state, 'reason' => mb_strimwidth($outcome->reason, 0, 250, '…'), 'item_id' => $outcome->item];
        // a zip taken up again after a break: what came in before the break is "taken", not "already there"
        if ($file === null && $outcome->state === 'known' && ImportFile::query()->where('import_id', $import->id)->where('path', $outcome->path)->where('state', 'taken')->exists()) {
            return;
        }
        $file === null
            ? ImportFile::query()->updateOrCreate(['import_id' => $import->id, 'path' => $outcome->path], $row)
            : $file->update($row);
    }
}
