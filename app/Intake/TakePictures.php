<?php

declare(strict_types=1);

namespace App\Intake;

use App\Files\AssetStore;
use App\Models\Item;
use App\Models\Project;
use App\Models\Set;
use Closure;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Archive\UnsafeArchive;
use Skeno\Core\Archive\ZipSource;
use Skeno\Core\Archive\ZipTarget;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Imaging\RefusedPicture;

/** Takes picture files into a project, one by one; a bad one is refused by name and reason and never stops the rest. */
final class TakePictures
{
    /** Files that stand beside pictures and carry labels or facts: passed over in silence of a refusal, but reported. */
    private const BESIDE = ['json', 'xml', 'txt', 'yaml', 'yml', 'names', 'csv', 'md'];

    public function __construct(private readonly AssetStore $store)
    {
    }

    /**
     * @param  string  $file  on this machine
     * @param  string  $path  set and name as the person knows them
     * @param  bool  $again  take bytes that are in the project already a second time
     */
    public function one(Project $project, string $file, string $path, bool $again): Outcome
    {
        $safe = ZipSource::safePath($path);
        if ($safe === null || mb_strlen($safe) > 250) {
            return Outcome::refused($path, $safe === null ? 'its path climbs out of the folder' : 'its path is longer than 250 characters');
        }
        if (in_array(strtolower(pathinfo($safe, PATHINFO_EXTENSION)), self::BESIDE, true)) {
            return Outcome::passed($safe, 'not a picture; label files come in by their format');
        }
        try {
            $limits = new PictureLimits(config()->integer('skeno.picture.max_bytes'), config()->integer('skeno.picture.max_pixels'));
            $picture = Picture::open($file, $safe, $limits);
        } catch (RefusedPicture $e) {
            return Outcome::refused($safe, $e->getMessage());
        }
        $hash = (string) hash_file('sha256', $file);

        $known = static function () use ($project, $hash, $safe, $again): ?Outcome {
            $item = Item::query()->where('project_id', $project->id)->whereHas('asset', static fn ($asset) => $asset->where('sha256', $hash))->first();

            return $item !== null && (! $again || $item->path === $safe) ? Outcome::known($safe, $item->id, $item->path === $safe ? 'already here' : "the same bytes are already here as \"{$item->path}\"") : null;
        };
        if (($outcome = $known()) !== null) {
            return $outcome;
        }
        $this->store->keep($picture, $hash);

        return DB::transaction(function () use ($project, $picture, $hash, $safe, $known): Outcome {
            // another import may have brought it in meanwhile
            if (($outcome = $known()) !== null) {
                return $outcome;
            }
            $asset = $this->store->of($picture, $hash);
            $path = $this->freePath($project, $safe);
            $folder = dirname($path);
            $set = Set::query()->firstOrCreate(['project_id' => $project->id, 'path' => $folder === '.' ? '' : $folder]);
            $item = Item::query()->create(['project_id' => $project->id, 'set_id' => $set->id, 'asset_id' => $asset->id, 'path' => $path]);

            return Outcome::taken($path, $item->id, $path === $safe ? '' : "another picture has the name \"{$safe}\"; this one was named \"{$path}\"");
        });
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
     * A picture, a zip or a folder with all its sub-folders.
     *
     * @return iterable<Outcome>
     */
    public function all(Project $project, string $source, bool $again, string $into = ''): iterable
    {
        $prefix = $into === '' ? '' : rtrim($into, '/').'/';
        if (is_dir($source)) {
            foreach (ZipTarget::files($source) as $path) {
                if (! ZipSource::isClutter($path)) {
                    yield from str_ends_with(strtolower($path), '.zip')
                        ? $this->zip($project, "{$source}/{$path}", $again, $prefix.(dirname($path) === '.' ? '' : dirname($path).'/'), $path)
                        : [$this->one($project, "{$source}/{$path}", $prefix.$path, $again)];
                }
            }
        } elseif ((string) @file_get_contents($source, false, null, 0, 4) === "PK\x03\x04") {
            yield from $this->zip($project, $source, $again, $prefix, basename($source));
        } else {
            yield $this->one($project, $source, $prefix.basename($source), $again);
        }
    }

    /**
     * @param  ?Closure(string, string): void  $beside  told of files that are no pictures: where one is unpacked for the moment, and its path
     * @return iterable<Outcome>
     */
    public function zip(Project $project, string $file, bool $again, string $prefix, string $name, ?Closure $beside = null): iterable
    {
        try {
            $zip = ZipSource::open($file, config()->integer('skeno.zip.max_total_bytes'), config()->integer('skeno.picture.max_bytes'));
        } catch (UnsafeArchive $e) {
            yield Outcome::refused($name, $e->getMessage());

            return;
        }
        foreach ($zip->refused as $path => $reason) {
            yield Outcome::refused((string) $path, $reason);
        }
        foreach (array_keys($zip->entries) as $path) {
            $path = (string) $path;
            $temporary = storage_path('tmp/'.bin2hex(random_bytes(8)));
            try {
                if (in_array(strtolower(pathinfo($path, PATHINFO_EXTENSION)), self::BESIDE, true)) {
                    if ($beside !== null) {
                        $zip->extract($path, $temporary);
                        $beside($temporary, $prefix.$path);
                    }
                    yield Outcome::passed($prefix.$path, 'not a picture; label files come in by their format');

                    continue;
                }
                $zip->extract($path, $temporary);
                yield $this->one($project, $temporary, $prefix.$path, $again);
            } catch (UnsafeArchive $e) {
                yield Outcome::refused($prefix.$path, $e->getMessage());
            } finally {
                @unlink($temporary);
            }
        }
    }

    /** Copies for the screen of these items: later by the worker, or now. @param  list<int>  $items */
    public function derive(array $items, bool $now): void
    {
        foreach (array_chunk($items, 50) as $chunk) {
            $now ? dispatch_sync(new DerivePictures($chunk)) : dispatch(new DerivePictures($chunk));
        }
    }
}
