<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Intake\Beside;
use App\Intake\Outcome;
use App\Intake\TakePictures;
use App\Intake\Uploads;
use App\Models\Import;
use App\Models\ImportFile;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;

/** Takes one uploaded file (a picture, or a zip with many) into its project. Run again after a break, it goes on. */
final class TakeUpload implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 3600;

    public function __construct(private readonly int $file)
    {
    }

    public function handle(TakePictures $intake, Uploads $uploads, Beside $beside): void
    {
        $file = ImportFile::query()->with('import.project')->find($this->file);
        if ($file === null || $file->state !== 'received') {
            return;
        }
        $import = $file->import;
        $source = $uploads->place($file);
        $items = [];
        try {
            $isZip = (string) @file_get_contents($source, false, null, 0, 4) === "PK\x03\x04";
            $outcomes = $isZip
                ? $intake->zip($import->project, $source, $import->again, dirname($file->path) === '.' ? '' : dirname($file->path).'/', $file->path, static fn (string $from, string $path) => $beside->keep($import, $from, $path))
                : [$intake->one($import->project, $source, $file->path, $import->again)];
            foreach ($outcomes as $outcome) {
                $this->write($import, $isZip ? null : $file, $outcome);
                if (! $isZip && $outcome->state === 'passed') {
                    $beside->keep($import, $source, $file->path);
                }
                if ($outcome->state === 'taken' && $outcome->item !== null) {
                    $items[] = $outcome->item;
                }
                if (count($items) >= 50) {
                    $intake->derive($items, false);
                    $items = [];
                }
            }
            // a zip refused as a whole says so itself
            if ($isZip && $file->refresh()->getAttribute('state') === 'received') {
                $file->update(['state' => 'passed', 'reason' => 'unpacked']);
            }
        } catch (\Throwable $e) {
            $file->update(['state' => 'refused', 'reason' => $e->getMessage()]);
            report($e);
        }
        $intake->derive($items, false);
        @unlink($source);
        $uploads->finishIfDone($import);
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
