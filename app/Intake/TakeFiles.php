<?php

declare(strict_types=1);

namespace App\Intake;

use App\Intake\Kinds\Kinds;
use App\Models\Asset;
use App\Models\Item;
use App\Models\Project;
use App\Models\Set;
use Closure;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Archive\ZipTarget;
use Skeno\Core\Cloud\CloudFile;
use Skeno\Core\Items\NoItem;
use Skeno\Core\Items\RefusedFile;
use Skeno\Core\Items\Wish;

/** Takes files into a project, one by one, each as an item of its kind; a bad one is refused by name and reason and never stops the rest. */
final class TakeFiles
{
    /** Files that stand beside the others and carry labels or facts: passed over in silence of a refusal, but reported. */
    private const BESIDE = ['json', 'jsonl', 'conll', 'xml', 'txt', 'yaml', 'yml', 'names', 'csv', 'md', 'ini'];

    /** Of these files those that are items themselves where texts are labelled. */
    private const TEXTS = ['txt'];

    /** @var array<int, bool> by project */
    private array $ofTexts = [];

    public function __construct(private readonly Kinds $kinds, private readonly Bundles $bundles)
    {
    }

    /**
     * @param  string  $file  on this machine
     * @param  string  $path  set and name as the person knows them
     * @param  bool  $again  take bytes that are in the project already a second time
     * @param  ?Closure(string): void  $progress  told how far a file is that takes long; may throw to stop
     * @param  ?string  $named  a name by which the file is told, where its path is none of its own
     */
    public function one(Project $project, string $file, string $path, bool $again, ?Closure $progress = null, Wish $wish = new Wish, ?string $named = null): Outcome
    {
        $safe = ZipSource::safePath($path);
        if ($safe === null || mb_strlen($safe) > 250) {
            return Outcome::refused($path, $safe === null ? 'its path climbs out of the folder' : 'its path is longer than 250 characters');
        }
        if ($named === null && $this->isBeside($project, $safe, $file)) {
            return Outcome::passed($safe, 'no item; label files come in by their format');
        }
        try {
            $kind = $this->kinds->tell($file, $named ?? $safe);
            $arrival = $kind->open($file, $named ?? $safe, $wish);
        } catch (NoItem $e) {
            return Outcome::passed($safe, $e->getMessage());
        } catch (RefusedFile $e) {
            return Outcome::refused($safe, $e->getMessage());
        }
        $hash = $arrival->hash($file);

        $known = static function () use ($project, $hash, $safe, $again): ?Outcome {
            $item = Item::query()->where('project_id', $project->id)->whereHas('asset', static fn ($asset) => $asset->where('sha256', $hash))->first();

            return $item !== null && (! $again || $item->path === $safe) ? Outcome::known($safe, $item->id, $item->path === $safe ? 'already here' : "the same bytes are already here as \"{$item->path}\"") : null;
        };
        if (($outcome = $known()) !== null) {
            return $outcome;
        }
        try {
            $note = $arrival->keep($hash, $progress ?? static fn () => null);
        } catch (RefusedFile $e) {
            return Outcome::refused($safe, $e->getMessage());
        }

        return DB::transaction(function () use ($project, $kind, $arrival, $hash, $safe, $known, $note): Outcome {
            // another import may have brought it in meanwhile
            if (($outcome = $known()) !== null) {
                return $outcome;
            }
            $asset = Asset::query()->firstOrCreate(['sha256' => $hash], $arrival->asset());
            $arrival->written($asset);
            $path = $this->freePath($project, $safe);
            $folder = dirname($path);
            $set = Set::query()->firstOrCreate(['project_id' => $project->id, 'path' => $folder === '.' ? '' : $folder]);
            $item = Item::query()->create(['project_id' => $project->id, 'set_id' => $set->id, 'asset_id' => $asset->id, 'kind' => $kind->word(), 'path' => $path]);

            return Outcome::taken($path, $item->id, implode('; ', array_filter([$path === $safe ? '' : "another item has the name \"{$safe}\"; this one was named \"{$path}\"", $note])));
        });
    }

    /** Whether a file stands beside the items and is none itself: what a text file is depends on what is labelled here, and a table may be one of points. */
    private function isBeside(Project $project, string $path, string $file): bool
    {
        $ending = strtolower(pathinfo($path, PATHINFO_EXTENSION));

        return in_array($ending, self::BESIDE, true) && ! ($ending === 'csv' && CloudFile::isOne((string) @file_get_contents($file, false, null, 0, 1024))) && ! (in_array($ending, self::TEXTS, true) && ($this->ofTexts[$project->id] ??= $project->codebookVersion()->codebook()->isForTexts()));
    }

    /** A name no other item has: `a.jpg`, `a (2).jpg`, … */
    private function freePath(Project $project, string $path): string
    {
        $free = $path;
        for ($n = 2; Item::query()->where('project_id', $project->id)->where('path', $free)->exists(); $n++) {
            $free = (string) preg_replace('/(\.[^.\/]*)?$/', " ({$n})\$1", $path, 1);
        }

        return $free;
    }

    /**
     * A file, a zip or a folder with all its sub-folders.
     *
     * @param  ?Closure(string): void  $progress  told how far it is; may throw to stop
     * @return iterable<Outcome>
     */
    public function all(Project $project, string $source, bool $again, string $into = '', ?Closure $progress = null, Wish $wish = new Wish): iterable
    {
        $prefix = $into === '' ? '' : rtrim($into, '/').'/';
        if (is_dir($source)) {
            $files = array_values(array_filter(ZipTarget::files($source), static fn (string $path): bool => ! ZipSource::isClutter($path)));
            $bundled = [];
            foreach ($this->bundles->of($files, static fn (string $path, string $to) => @copy("{$source}/{$path}", $to) ?: throw new RuntimeException("{$path} can't be read"), $wish) as $bundle) {
                $bundled += array_fill_keys($bundle->pages, true);
                yield $this->bundled($project, $bundle, $prefix, $again, $progress, $wish);
            }
            foreach ($files as $path) {
                if (! isset($bundled[$path])) {
                    yield from str_ends_with(strtolower($path), '.zip')
                        ? $this->zip($project, "{$source}/{$path}", $again, $prefix.(dirname($path) === '.' ? '' : dirname($path).'/'), $path, null, $progress, $wish)
                        : [$this->one($project, "{$source}/{$path}", $prefix.$path, $again, $progress === null ? null : static fn (string $words) => $progress("{$path}: {$words}"), $wish)];
                }
            }
        } elseif ((string) @file_get_contents($source, false, null, 0, 4) === "PK\x03\x04") {
            yield from $this->zip($project, $source, $again, $prefix, basename($source), null, $progress, $wish);
        } else {
            yield $this->one($project, $source, $prefix.basename($source), $again, $progress, $wish);
        }
    }

    /**
     * @param  ?Closure(string, string): void  $beside  told of files that are no items: where one is unpacked for the moment, and its path
     * @param  ?Closure(string): void  $progress  told how far it is; may throw to stop
     * @return iterable<Outcome>
     */
    public function zip(Project $project, string $file, bool $again, string $prefix, string $name, ?Closure $beside = null, ?Closure $progress = null, Wish $wish = new Wish): iterable
    {
        try {
            $zip = ZipSource::open($file, config()->integer('skeno.zip.max_total_bytes'), max(config()->integer('skeno.picture.max_bytes'), config()->integer('skeno.clip.max_bytes'), config()->integer('skeno.document.max_bytes'), config()->integer('skeno.volume.max_bytes'), config()->integer('skeno.cloud.max_bytes')));
        } catch (UnsafeArchive $e) {
            yield Outcome::refused($name, $e->getMessage());

            return;
        }
        foreach ($zip->refused as $path => $reason) {
            yield Outcome::refused((string) $path, $reason);
        }
        $bundled = [];
        foreach ($this->bundles->of(array_map(strval(...), array_keys($zip->entries)), $zip->extract(...), $wish) as $bundle) {
            $bundled += array_fill_keys($bundle->pages, true);
            yield $this->bundled($project, $bundle, $prefix, $again, $progress, $wish);
        }
        foreach (array_keys($zip->entries) as $path) {
            $path = (string) $path;
            if (isset($bundled[$path])) {
                continue;
            }
            $temporary = storage_path('tmp/'.bin2hex(random_bytes(8)));
            try {
                $zip->extract($path, $temporary);
                if ($this->isBeside($project, $path, $temporary)) {
                    if ($beside !== null) {
                        $beside($temporary, $prefix.$path);
                    }
                    yield Outcome::passed($prefix.$path, 'no item; label files come in by their format');

                    continue;
                }
                yield $this->one($project, $temporary, $prefix.$path, $again, $progress === null ? null : static fn (string $words) => $progress("{$path}: {$words}"), $wish);
            } catch (UnsafeArchive $e) {
                yield Outcome::refused($prefix.$path, $e->getMessage());
            } finally {
                @unlink($temporary);
            }
        }
    }

    /**
     * Takes files that were put together as one item.
     *
     * @param  ?Closure(string): void  $progress
     */
    public function bundled(Project $project, Bundled $bundle, string $prefix, bool $again, ?Closure $progress, Wish $wish): Outcome
    {
        try {
            return $bundle->reason === '' ? $this->one($project, $bundle->file, $prefix.$bundle->name, $again, $progress === null ? null : static fn (string $words) => $progress("{$bundle->name}: {$words}"), $wish, $bundle->told) : Outcome::refused($prefix.$bundle->name, $bundle->reason);
        } finally {
            @unlink($bundle->file);
        }
    }

    /** Copies for the screen of these items: later by the worker, or now. @param  list<int>  $items */
    public function derive(array $items, bool $now): void
    {
        foreach (array_chunk($items, 50) as $chunk) {
            $now ? dispatch_sync(new DeriveFiles($chunk)) : dispatch(new DeriveFiles($chunk));
        }
    }
}
