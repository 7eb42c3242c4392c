<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Import;
use App\Models\ImportFile;
use App\Support\Cancelled;
use App\Support\Job;
use App\Support\Refusal;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\UnreadableLabels;
use Throwable;

/**
 * Takes the label files of an import onto the pictures of its project. Run again, marks already there are not doubled. The files go only
 * when they have been taken, or refused by reason.
 */
final class TakeLabelFile extends Job
{
    /** Lines of a report that are kept; the counts are of all. */
    private const LISTED = 1000;

    public function __construct(private readonly int $import)
    {
    }

    public function subject(): string
    {
        return "labels:{$this->import}";
    }

    public function handle(TakeLabels $take, TakeTexts $texts, UnpackLabels $unpack, Uploads $uploads, Beside $beside): void
    {
        $import = Import::query()->with('project')->find($this->import);
        if ($import === null || $import->state !== 'working') {
            return;
        }
        $folder = storage_path("tmp/import-{$import->id}");
        File::deleteDirectory($folder);
        $files = $import->files()->where('state', 'received')->orderBy('path')->get();
        try {
            foreach ($files as $file) {
                File::ensureDirectoryExists(dirname("{$folder}/{$file->path}"), 0o770);
                if (! @link($uploads->place($file), "{$folder}/{$file->path}")) {
                    File::copy($uploads->place($file), "{$folder}/{$file->path}");
                }
            }
            $progress = static function (int $done) use ($import): void {
                $import->update(['done' => $done]);
                if ($import->refresh()->state !== 'working') {
                    throw Cancelled::byHand();
                }
            };
            if (($import->options['texts'] ?? false) === true) {
                $this->texts($import, $texts, $files, $folder, $progress);

                return;
            }
            $from = static fn (string $path): array => $take($import->project, Format::from((string) $import->options['format']), $path, $import->options['as'] === 'labels', $import->options['empty'] === 'nothing', $import, $progress);
            $source = Import::query()->where('project_id', $import->project_id)->find($import->options['beside'] ?? 0);
            $single = $source !== null ? $beside->folder($source) : ($files->count() === 1 ? "{$folder}/{$files[0]->path}" : $folder);
            $report = is_file($single) && (string) file_get_contents($single, false, null, 0, 4) === "PK\x03\x04" ? $unpack($single, $from) : $from($single);
            $report['skipped'] = array_slice($report['skipped'], 0, self::LISTED);
            $report['findings'] = array_slice($report['findings'], 0, self::LISTED);
            $this->settle($import, $files, 'taken', '', ['labels' => $report, 'error' => '']);
        } catch (Cancelled) {
            $this->settle($import, $files, 'passed', 'cancelled; what was taken before stays', [], 'cancelled');
        } catch (UnreadableLabels|Refusal $e) {
            if ($e instanceof Refusal && in_array($e->reason, ['codebook_changing', 'codebook_changed'], true)) {
                // the words are being changed: in a moment it goes on under the new ones
                throw $e;
            }
            $this->settle($import, $files, 'refused', $e->getMessage(), ['error' => $e->getMessage()]);
        } finally {
            // only the copies: the files themselves go with the last step of settle
            File::deleteDirectory($folder);
        }
    }

    /**
     * Files that hold many texts, one after the other; one that is none is refused by itself.
     *
     * @param  Collection<int, ImportFile>  $files
     * @param  \Closure(int): void  $progress
     */
    private function texts(Import $import, TakeTexts $take, Collection $files, string $folder, \Closure $progress): void
    {
        $columns = Columns::fromArray($import->options['columns'] ?? []);
        $all = null;
        foreach ($files as $file) {
            try {
                $done = $take($import->project, Format::from((string) $import->options['format']), "{$folder}/{$file->path}", $file->path, $columns, $import->options['as'] === 'labels', $import->options['empty'] === 'nothing', $import->again, $import, $progress);
                $file->update(['state' => 'taken', 'reason' => "{$done['taken']} texts taken".($done['known'] > 0 ? ", {$done['known']} were there already" : '')]);
                $all = $all === null ? $done['labels'] : TakeTexts::together($all, $done['labels']);
            } catch (UnreadableLabels $e) {
                $file->update(['state' => 'refused', 'reason' => mb_strimwidth($e->getMessage(), 0, 250, '…')]);
            }
        }
        if ($all !== null) {
            $all['skipped'] = array_slice($all['skipped'], 0, self::LISTED);
            $all['findings'] = array_slice($all['findings'], 0, self::LISTED);
        }
        $import->update(['state' => 'done', 'labels' => $all, 'error' => '']);
        foreach ($files as $file) {
            @unlink(app(Uploads::class)->place($file));
        }
    }

    public function failed(?Throwable $e): void
    {
        Import::query()->whereKey($this->import)->where('state', 'working')->update(['state' => 'failed', 'error' => 'the labels could not be taken in ('.self::why($e).'); the files are kept, what was taken before is not doubled by trying again']);
    }

    /**
     * @param  Collection<int, ImportFile>  $files
     * @param  array<string, mixed>  $outcome
     */
    private function settle(Import $import, Collection $files, string $state, string $reason, array $outcome, string $end = 'done'): void
    {
        DB::transaction(static function () use ($import, $files, $state, $reason, $outcome, $end): void {
            foreach (array_chunk($files->pluck('id')->all(), 500) as $some) {
                ImportFile::query()->whereIn('id', $some)->update(['state' => $state, 'reason' => mb_strimwidth($reason, 0, 250, '…')]);
            }
            $import->update(['state' => $end] + $outcome);
        });
        foreach ($files as $file) {
            @unlink(app(Uploads::class)->place($file));
        }
    }
}
