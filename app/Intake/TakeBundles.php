<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Import;
use App\Models\ImportFile;
use App\Support\Cancelled;
use App\Support\Job;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use Skeno\Core\Document\PageGroups;
use Throwable;

/** Puts the files of an import together as documents and volumes once all of them are here. Run again after a break, what has been taken is known. */
final class TakeBundles extends Job
{
    public function __construct(private readonly int $import)
    {
    }

    public function subject(): string
    {
        return "bundles:{$this->import}";
    }

    public function handle(TakeFiles $intake, Bundles $bundles, Uploads $uploads): void
    {
        $import = Import::query()->with('project')->find($this->import);
        if ($import === null || $import->state !== 'working') {
            return;
        }
        $files = $import->files()->where('state', 'received')->with('import')->get()->filter(Uploads::waits(...))->keyBy('path');
        $fetch = static function (string $path, string $to) use ($files, $uploads): void {
            $file = $files[$path] ?? throw new RuntimeException("{$path} is not here");
            if (! @copy($uploads->place($file), $to)) {
                throw new RuntimeException("{$path} is gone from the server; send it again");
            }
        };
        $items = [];
        try {
            $gone = array_values(array_map(strval(...), $import->files()->where('state', 'passed')->pluck('path')->all()));
            foreach ($bundles->of(array_values(array_map(strval(...), $files->keys()->all())), $fetch, $import->wish(), $gone) as $bundle) {
                if ($import->refresh()->state === 'cancelled') {
                    throw Cancelled::byHand();
                }
                $outcome = $intake->bundled($import->project, $bundle, '', $import->again, null, $import->wish());
                $this->write($import, $outcome, array_values(array_filter(array_map(static fn (string $path): ?ImportFile => $files[$path] ?? null, $bundle->pages))), $bundle->name);
                foreach ($bundle->pages as $path) {
                    // (a list may be of several documents: it stays until the last of them is taken)
                    if (isset($files[$path]) && basename($path) !== PageGroups::LIST) {
                        @unlink($uploads->place($files[$path]));
                    }
                }
                if ($outcome->state === 'taken' && $outcome->item !== null) {
                    $items[] = $outcome->item;
                }
            }
            foreach ($files as $path => $file) {
                if (basename((string) $path) === PageGroups::LIST) {
                    // (one that could not be read says so itself)
                    ImportFile::query()->whereKey($file->id)->where('state', 'received')->update(['state' => 'passed', 'reason' => 'a list of pages']);
                    @unlink($uploads->place($file));
                }
            }
            // a picture in no folder is one by itself
            foreach ($files as $file) {
                if ($file->refresh()->state === 'received') {
                    $outcome = $intake->one($import->project, $uploads->place($file), $file->path, $import->again, null, $import->wish());
                    $file->update(['state' => $outcome->state, 'reason' => mb_strimwidth($outcome->reason, 0, 250, '…'), 'item_id' => $outcome->item]);
                    @unlink($uploads->place($file));
                    if ($outcome->state === 'taken' && $outcome->item !== null) {
                        $items[] = $outcome->item;
                    }
                }
            }
        } catch (Cancelled) {
            return;
        } finally {
            $intake->derive($items, false);
        }
        $uploads->finishIfDone($import);
    }

    /** Not taken after several tries: the files are kept until somebody tries again or lets them go. */
    public function failed(?Throwable $e): void
    {
        $import = Import::query()->find($this->import);
        if ($import !== null && $import->state === 'working') {
            foreach ($import->files()->where('state', 'received')->with('import')->get()->filter(Uploads::waits(...)) as $file) {
                $file->update(['state' => 'failed', 'reason' => mb_strimwidth('could not be taken in ('.self::why($e).'); it is kept', 0, 250, '…')]);
            }
            app(Uploads::class)->finishIfDone($import);
        }
    }

    /**
     * What became of a document and of all its pages, at once: a job that ends in between would take those left for a document of their own.
     *
     * @param  list<ImportFile>  $pages
     */
    private function write(Import $import, Outcome $outcome, array $pages, string $name): void
    {
        DB::transaction(static function () use ($import, $outcome, $pages, $name): void {
            $reason = $outcome->state === 'refused' ? "\"{$name}\" was not taken" : "of \"{$name}\"";
            $ids = array_map(static fn (ImportFile $file): int => $file->id, array_filter($pages, static fn (ImportFile $file): bool => basename($file->path) !== PageGroups::LIST));
            foreach (array_chunk(array_values($ids), 500) as $some) {
                ImportFile::query()->whereIn('id', $some)->update(['state' => 'passed', 'reason' => mb_strimwidth($reason, 0, 250, '…')]);
            }
            // taken before a break, it is not said to have been there already
            if ($outcome->state !== 'known' || ImportFile::query()->where('import_id', $import->id)->where('path', $outcome->path)->where('state', 'taken')->doesntExist()) {
                ImportFile::query()->updateOrCreate(['import_id' => $import->id, 'path' => $outcome->path], ['state' => $outcome->state, 'reason' => mb_strimwidth($outcome->reason, 0, 250, '…'), 'item_id' => $outcome->item]);
            }
        });
    }
}
