<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Import;
use Illuminate\Support\Facades\File;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Noticed;

/** Label files that came along with pictures: kept for a while, told what they are, taken in when somebody says so. */
final class Beside
{
    /** Label files are kept only while there is room: they can be brought in by themselves too. */
    private const LEAST_FREE_BYTES = 500_000_000;

    private const DAYS = 14;

    public function folder(Import $import): string
    {
        return storage_path("beside/{$import->id}");
    }

    /** @param  string  $path  safe, as the import knows it */
    public function keep(Import $import, string $file, string $path): void
    {
        $target = $this->folder($import).'/'.$path;
        $free = @disk_free_space(storage_path());
        if ($free === false || $free > self::LEAST_FREE_BYTES) {
            File::ensureDirectoryExists(dirname($target), 0o770);
            File::copy($file, $target);
        }
    }

    /** Looks what lies beside the pictures of an import that has come to its end. */
    public function notice(Import $import): void
    {
        if (File::isDirectory($this->folder($import))) {
            $noticed = array_map(static fn (array $one): array => ['format' => $one['format']->value, 'label' => $one['format']->label(), 'files' => $one['files']], Noticed::in(new Folder($this->folder($import))));
            $import->update(['noticed' => $noticed]);
            if ($noticed === []) {
                File::deleteDirectory($this->folder($import));
            }
        }
        foreach (Import::query()->where('created_at', '<', now()->subDays(self::DAYS))->where('noticed', '!=', '[]')->get() as $old) {
            File::deleteDirectory($this->folder($old));
            $old->update(['noticed' => []]);
        }
    }
}
