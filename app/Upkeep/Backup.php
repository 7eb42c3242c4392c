<?php

declare(strict_types=1);

namespace App\Upkeep;

use App\Files\AssetStore;
use App\Support\Refusal;
use Illuminate\Filesystem\Filesystem;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use SQLite3;
use Throwable;

/**
 * Copies an installation while it runs, and puts it back: the database by SQLite's online backup, then the files, which are never changed
 * once they are there. Every copy is held against its source; a backup is held against its own list before it is put back.
 */
final class Backup
{
    /** Folders of the state that can't be made again. Copies for the screen, caches, sessions and logs are left out. */
    private const FOLDERS = ['assets', 'handbook', 'releases', 'beside', 'uploads'];

    private const DATABASE = 'skeno.sqlite';

    private const KEY = 'app.key';

    private const LIST = 'backup.json';

    public function __construct(private readonly Filesystem $files)
    {
    }

    /** @return array{files: int, bytes: int} */
    public function make(string $target): array
    {
        if (is_dir($target) && ! $this->files->isEmptyDirectory($target)) {
            throw Refusal::because('not_empty', "the folder {$target} is not empty; a backup goes into one of its own");
        }
        $this->files->ensureDirectoryExists($target, 0o700);
        try {
            $this->database(storage_path(self::DATABASE), "{$target}/".self::DATABASE);
            $list = [self::DATABASE => (string) hash_file('sha256', "{$target}/".self::DATABASE)];
            foreach ($this->state() as $path) {
                $sha256 = $this->copy(storage_path($path), "{$target}/{$path}");
                if ($sha256 !== null) {
                    $list[$path] = $sha256;
                }
            }
            $this->mustHoldAll("{$target}/".self::DATABASE, $list);
            if (file_put_contents("{$target}/".self::LIST, json_encode(['skeno' => 'backup/1', 'at' => now()->toIso8601ZuluString(), 'files' => $list], JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES)) === false) {
                throw new RuntimeException('the list of the backup could not be written: is the disk full?');
            }
        } catch (Throwable $e) {
            // half a backup is none
            $this->files->deleteDirectory($target);
            throw $e;
        }

        return ['files' => count($list), 'bytes' => array_sum(array_map(static fn (string $path): int => (int) filesize("{$target}/{$path}"), array_keys($list)))];
    }

    /**
     * Puts a backup in the place of this installation, while nothing else of it runs.
     *
     * @param  bool  $replace  also when there are people in it
     * @return array{files: int}
     */
    public function restore(string $source, bool $replace): array
    {
        $list = $this->list($source);
        if (! $replace && $this->isUsed()) {
            throw Refusal::because('not_empty', 'this installation has people in it; --replace puts the backup in its place');
        }
        foreach ($list as $path => $sha256) {
            if (! is_file("{$source}/{$path}") || hash_file('sha256', "{$source}/{$path}") !== $sha256) {
                throw Refusal::because('backup_damaged', "{$path} of the backup is missing or not as it was written; nothing was changed");
            }
        }
        foreach (array_keys($list) as $path) {
            if ($path !== self::DATABASE) {
                $this->copy("{$source}/{$path}", storage_path($path));
            }
        }
        $new = storage_path(self::DATABASE.'.new');
        $this->copy("{$source}/".self::DATABASE, $new);
        DB::disconnect();
        foreach (['-wal', '-shm'] as $beside) {
            @unlink(storage_path(self::DATABASE.$beside));
        }
        if (! rename($new, storage_path(self::DATABASE))) {
            throw new RuntimeException('the database could not be put in its place');
        }

        return ['files' => count($list)];
    }

    private function database(string $from, string $to): void
    {
        $live = new SQLite3($from, SQLITE3_OPEN_READONLY);
        $live->busyTimeout(10_000);
        $copy = new SQLite3($to);
        if (! $live->backup($copy)) {
            throw new RuntimeException('the database could not be copied: is the disk full?');
        }
        $sound = $copy->querySingle('pragma integrity_check');
        $copy->exec('pragma journal_mode = delete');
        $copy->close();
        $live->close();
        if ($sound !== 'ok') {
            throw new RuntimeException('the copy of the database is not sound: '.(is_scalar($sound) ? (string) $sound : 'unreadable'));
        }
    }

    /** @return list<string> files of the state, by their paths in it */
    private function state(): array
    {
        $paths = [self::KEY];
        foreach (self::FOLDERS as $folder) {
            if (is_dir(storage_path($folder))) {
                foreach ($this->files->allFiles(storage_path($folder), true) as $file) {
                    // what is being written has its place only when it is whole
                    if (preg_match('/\.part|\.lock$|\.[0-9a-f]{8}$/', $file->getFilename()) !== 1) {
                        $paths[] = "{$folder}/{$file->getRelativePathname()}";
                    }
                }
            }
        }

        return $paths;
    }

    /** @return ?string its SHA-256; null when the source has gone meanwhile */
    private function copy(string $from, string $to): ?string
    {
        if (! is_file($from)) {
            return null;
        }
        $this->files->ensureDirectoryExists(dirname($to), 0o770);
        $sha256 = (string) hash_file('sha256', $from);
        if (! @copy($from, $to) || hash_file('sha256', $to) !== $sha256) {
            clearstatcache();
            if (! file_exists($from)) {
                @unlink($to);

                return null;
            }
            throw new RuntimeException("{$to} could not be written as it is at {$from}: is the disk full?");
        }

        return $sha256;
    }

    /**
     * Every picture and handbook file the database knows is there, with its own bytes.
     *
     * @param  array<string, string>  $list
     */
    private function mustHoldAll(string $database, array $list): void
    {
        $copy = new SQLite3($database, SQLITE3_OPEN_READONLY);
        foreach (['assets' => 'assets', 'handbook_files' => 'handbook'] as $table => $folder) {
            $rows = $copy->query('select '.($table === 'assets' ? "coalesce(json_extract(facts, '$.file'), sha256) as sha256" : 'sha256')." from {$table}");
            while ($rows !== false && is_array($row = $rows->fetchArray(SQLITE3_ASSOC))) {
                $sha256 = (string) $row['sha256'];
                $path = $folder === 'assets' ? 'assets/'.AssetStore::path($sha256) : 'handbook/'.substr($sha256, 0, 2)."/{$sha256}";
                if (($list[$path] ?? null) !== $sha256) {
                    throw new RuntimeException("{$path} is missing or not what its name says; the installation itself is damaged there");
                }
            }
        }
        $copy->close();
    }

    /** @return array<string, string> SHA-256 by path */
    private function list(string $source): array
    {
        $data = json_decode((string) @file_get_contents("{$source}/".self::LIST), true);
        $files = is_array($data) && ($data['skeno'] ?? null) === 'backup/1' ? $data['files'] ?? null : null;
        if (! is_array($files) || ! isset($files[self::DATABASE])) {
            throw Refusal::because('no_backup', "{$source} is no backup of Skeno");
        }
        $list = [];
        foreach ($files as $path => $sha256) {
            if (! is_string($path) || ! is_string($sha256) || str_contains($path, '..') || preg_match('#^(skeno\.sqlite|app\.key|('.implode('|', self::FOLDERS).')/.+)$#D', $path) !== 1) {
                throw Refusal::because('no_backup', 'the list of the backup names a file that is none of Skeno\'s');
            }
            $list[$path] = $sha256;
        }

        return $list;
    }

    private function isUsed(): bool
    {
        try {
            return DB::table('users')->exists();
        } catch (\Illuminate\Database\QueryException) {
            // nothing has been migrated yet
            return false;
        }
    }
}
