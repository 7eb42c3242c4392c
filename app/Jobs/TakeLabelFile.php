<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Http\Refusal;
use App\Intake\Beside;
use App\Intake\TakeLabels;
use App\Intake\UnpackLabels;
use App\Intake\Uploads;
use App\Models\Import;
use App\Models\ImportFile;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;
use Illuminate\Support\Facades\File;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\UnreadableLabels;

/** Takes the label files of an import onto the pictures of its project. Run again, marks already there are not doubled. */
final class TakeLabelFile implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 3600;

    public function __construct(private readonly int $import)
    {
    }

    public function handle(TakeLabels $take, UnpackLabels $unpack, Uploads $uploads, Beside $beside): void
    {
        $import = Import::query()->with('project')->findOrFail($this->import);
        $folder = storage_path("tmp/import-{$import->id}");
        File::deleteDirectory($folder);
        $files = $import->files()->where('state', 'received')->orderBy('path')->get();
        try {
            foreach ($files as $file) {
                File::ensureDirectoryExists(dirname("{$folder}/{$file->path}"), 0o770);
                File::copy($uploads->place($file), "{$folder}/{$file->path}");
            }
            $from = static fn (string $path): array => $take($import->project, Format::from((string) $import->options['format']), $path, $import->options['as'] === 'labels', $import->options['empty'] === 'nothing');
            $source = Import::query()->where('project_id', $import->project_id)->find($import->options['beside'] ?? 0);
            $single = $source !== null ? $beside->folder($source) : ($files->count() === 1 ? "{$folder}/{$files[0]->path}" : $folder);
            $report = is_file($single) && (string) file_get_contents($single, false, null, 0, 4) === "PK\x03\x04" ? $unpack($single, $from) : $from($single);
            $report['skipped'] = array_slice($report['skipped'], 0, 1000);
            $import->update(['labels' => $report]);
            $this->settle($files, 'taken', '');
        } catch (UnreadableLabels|Refusal $e) {
            $this->settle($files, 'refused', $e->getMessage());
            $import->update(['error' => $e->getMessage()]);
        } finally {
            File::deleteDirectory($folder);
            foreach ($files as $file) {
                @unlink($uploads->place($file));
            }
            $import->update(['state' => 'done']);
        }
    }

    /** @param  \Illuminate\Support\Collection<int, ImportFile>  $files */
    private function settle(\Illuminate\Support\Collection $files, string $state, string $reason): void
    {
        foreach ($files as $file) {
            $file->update(['state' => $state, 'reason' => mb_strimwidth($reason, 0, 250, '…')]);
        }
    }
}
