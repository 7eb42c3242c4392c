<?php

declare(strict_types=1);

namespace App\Releases;

use App\Models\Release;
use App\Support\Cancelled;
use App\Support\Job;
use Throwable;

/** Freezes a release. Run again after a break, it begins anew. */
final class FreezeRelease extends Job
{
    public function __construct(private readonly int $release)
    {
    }

    public function subject(): string
    {
        return "release:{$this->release}";
    }

    public function handle(Snapshots $snapshots): void
    {
        $release = Release::query()->find($this->release);
        if ($release === null || ! in_array($release->state, ['waiting', 'working'], true)) {
            return;
        }
        try {
            $snapshots->freeze($release);
        } catch (Cancelled) {
            // its row says so, or is gone
            return;
        } catch (Throwable $e) {
            Release::query()->whereKey($this->release)->whereIn('state', ['waiting', 'working'])->update(['error' => $e->getMessage()]);
            if (! $this->givesUpOn($e)) {
                throw $e;
            }
        }
    }

    public function failed(?Throwable $e): void
    {
        Release::query()->whereKey($this->release)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => self::why($e)]);
    }
}
