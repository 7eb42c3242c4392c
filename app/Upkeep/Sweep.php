<?php

declare(strict_types=1);

namespace App\Upkeep;

use App\Models\Import;
use App\Models\ImportFile;
use Illuminate\Filesystem\Filesystem;
use Illuminate\Support\Facades\DB;

/** Takes away what killed jobs and unfinished uploads leave behind. */
final class Sweep
{
    /** Hours after which something in the folder for what is in hand belongs to nobody. */
    private const HOURS = 24;

    /** Days an upload that was never finished is kept, since it may go on. */
    private const DAYS = 14;

    public function __construct(private readonly Filesystem $files)
    {
    }

    /** @return int how many files and folders went */
    public function __invoke(): int
    {
        $gone = $this->old(storage_path('tmp'), self::HOURS);
        foreach ($this->files->glob(storage_path('releases/*/*/*.part*')) as $path) {
            $gone += $this->remove($path, self::HOURS);
        }
        $stale = ImportFile::query()->where('state', 'receiving')->where('updated_at', '<', now()->subDays(self::DAYS))->pluck('id');
        foreach ($stale->chunk(500) as $some) {
            ImportFile::query()->whereIn('id', $some->all())->where('state', 'receiving')->update(['state' => 'refused', 'reason' => 'it never arrived whole']);
        }
        Import::query()->where('state', 'receiving')->where('updated_at', '<', now()->subDays(self::DAYS))->whereDoesntHave('files', static fn ($files) => $files->whereIn('state', ['receiving', 'received', 'failed']))->update(['state' => 'done']);
        foreach ($this->files->files(storage_path('uploads')) as $file) {
            $name = $file->getFilename();
            $id = preg_match('/^(\d+)(\.lock)?$/D', $name, $m) === 1 ? (int) $m[1] : null;
            if ($id !== null && (isset($m[2]) ? $this->isOld($file->getPathname(), self::HOURS) : ImportFile::query()->whereKey($id)->whereIn('state', ['receiving', 'received', 'failed'])->doesntExist())) {
                $gone += @unlink($file->getPathname()) ? 1 : 0;
            }
            if (preg_match('/^chore-(\d+)\.csv$/D', $name, $m) === 1 && DB::table('chores')->where('id', (int) $m[1])->whereIn('state', ['waiting', 'working', 'failed'])->doesntExist()) {
                $gone += $this->remove($file->getPathname(), self::HOURS);
            }
        }
        DB::table('password_links')->where('expires_at', '<', now())->delete();
        DB::table('failed_jobs')->where('failed_at', '<', now()->subDays(30))->delete();

        return $gone;
    }

    private function old(string $folder, int $hours): int
    {
        $gone = 0;
        foreach ([...$this->files->files($folder), ...array_map(static fn (string $path): \SplFileInfo => new \SplFileInfo($path), $this->files->directories($folder))] as $entry) {
            $gone += $this->remove($entry->getPathname(), $hours);
        }

        return $gone;
    }

    private function remove(string $path, int $hours): int
    {
        if (! $this->isOld($path, $hours)) {
            return 0;
        }

        return (is_dir($path) ? $this->files->deleteDirectory($path) : @unlink($path)) ? 1 : 0;
    }

    private function isOld(string $path, int $hours): bool
    {
        return (int) @filemtime($path) < now()->subHours($hours)->getTimestamp();
    }
}
