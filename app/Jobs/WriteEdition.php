<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Edition;
use App\Releases\Snapshots;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;
use Skeno\Core\Formats\Yolo\YoloLayout;

/** Writes a release in one format as a zip. Run again, it writes the same bytes. */
final class WriteEdition implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 3600;

    public function __construct(private readonly int $edition)
    {
    }

    public static function file(Edition $edition): string
    {
        $release = $edition->release;
        $pictures = $edition->pictures ? '' : '-labels';

        $layout = $edition->layout === '' ? '' : "-{$edition->layout}";

        return storage_path("releases/{$release->project_id}/{$release->number}/{$edition->format->value}{$layout}{$pictures}.zip");
    }

    public function handle(Snapshots $snapshots): void
    {
        $edition = Edition::query()->with('release.project')->findOrFail($this->edition);
        if ($edition->state === 'done') {
            return;
        }
        $edition->update(['state' => 'working', 'error' => '']);
        try {
            $file = self::file($edition);
            $report = $snapshots->write($edition->release, $edition->format, $edition->pictures, $file, YoloLayout::tryFrom($edition->layout) ?? YoloLayout::Folders);
            $edition->update(['state' => 'done', 'bytes' => filesize($file), 'sha256' => hash_file('sha256', $file), 'report' => $report]);
        } catch (\Throwable $e) {
            $edition->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
    }
}
