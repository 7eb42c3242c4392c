<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Release;
use App\Releases\Snapshots;
use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;

final class FreezeRelease implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    public int $timeout = 3600;

    public function __construct(private readonly int $release)
    {
    }

    public function handle(Snapshots $snapshots): void
    {
        $release = Release::query()->findOrFail($this->release);
        if ($release->state !== 'done') {
            $snapshots->freeze($release);
        }
    }
}
