<?php

declare(strict_types=1);

namespace App\Releases;

use App\Models\Edition;
use App\Support\Cancelled;
use App\Support\Job;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\Release\ChosenFrames;
use Throwable;

/** Writes a release in one format as a zip. Run again, it writes the same bytes. */
final class WriteEdition extends Job
{
    public function __construct(private readonly int $edition)
    {
    }

    public function subject(): string
    {
        return "edition:{$this->edition}";
    }

    public static function file(Edition $edition): string
    {
        $release = $edition->release;
        $pictures = $edition->pictures ? '' : '-labels';

        $layout = ($edition->layout === '' ? '' : "-{$edition->layout}").($edition->frames === '' ? '' : '-frames-'.substr(hash('sha256', $edition->frames), 0, 12));

        return storage_path("releases/{$release->project_id}/{$release->number}/{$edition->format->value}{$layout}{$pictures}.zip");
    }

    public function handle(Snapshots $snapshots): void
    {
        $edition = Edition::query()->with('release.project')->find($this->edition);
        if ($edition === null || ! in_array($edition->state, ['waiting', 'working'], true)) {
            return;
        }
        $edition->update(['state' => 'working', 'error' => '']);
        try {
            $file = self::file($edition);
            $report = $snapshots->write($edition->release, $edition->format, $edition->pictures, $file, YoloLayout::tryFrom($edition->layout) ?? YoloLayout::Folders, static function () use ($edition): void {
                if (Edition::query()->whereKey($edition->id)->where('state', 'working')->doesntExist()) {
                    throw Cancelled::byHand();
                }
            }, $edition->frames === '' ? null : ChosenFrames::parse($edition->frames));
            Edition::query()->whereKey($edition->id)->where('state', 'working')->update(['state' => 'done', 'bytes' => filesize($file), 'sha256' => hash_file('sha256', $file), 'report' => json_encode($report)]);
        } catch (Cancelled) {
            return;
        } catch (Throwable $e) {
            Edition::query()->whereKey($edition->id)->where('state', 'working')->update(['error' => $e->getMessage()]);
            if (! $this->givesUpOn($e)) {
                throw $e;
            }
        }
    }

    public function failed(?Throwable $e): void
    {
        Edition::query()->whereKey($this->edition)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => self::why($e)]);
    }
}
