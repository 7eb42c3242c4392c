<?php

declare(strict_types=1);

namespace App\Intake;

use App\Files\ClipStore;
use App\Models\Item;
use App\Models\Project;
use Closure;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Skeno\Core\Clip\MostDifferent;
use Skeno\Core\InvalidValue;

/**
 * Frames of a clip become pictures of a project, decoded from the original: `clip/000017.png`. Each remembers its clip and which frame it was, and
 * goes to the same part of a split as its clip.
 */
final class TakeFrames
{
    /** Frames decoded at a time: what lies on the disk meanwhile, and how often it is looked whether to stop. */
    private const CHUNK = 60;

    /** What may be asked for of those that differ most: all are compared with each that is drawn. */
    public const MOST_DIFFERENT = 1_000;

    /** How a picture's row says that it was a frame of a clip. */
    public const ROLE = 'clip';

    public function __construct(private readonly ClipStore $clips, private readonly TakeFiles $take)
    {
    }

    /**
     * How many frames a choice means, without looking at one.
     *
     * @throws InvalidValue when it can't be read
     */
    public static function count(Item $clip, string $choice): int
    {
        $different = self::different($choice);

        return $different === null ? count(self::numbered($clip, $choice)) : MostDifferent::count($different, $clip->frames() ?? throw InvalidValue::at('item', $clip->path, 'a clip'));
    }

    /**
     * The frames a choice means: `every:N`, `list:0,5,9`, `stretch:10-40` with both included, or `different:N`, for which it has to look at them; the
     * same ones every time.
     *
     * @param  Closure(int): void  $looked  told a frame that was looked at; may throw to stop
     * @return list<int> in order
     *
     * @throws InvalidValue
     */
    public function chosen(Item $clip, string $choice, Closure $looked): array
    {
        $different = self::different($choice);

        return $different === null ? self::numbered($clip, $choice) : $this->clips->mostDifferent($clip->asset, $different, $looked);
    }

    private static function different(string $choice): ?int
    {
        if (preg_match('/^different:(\d{1,5})$/D', $choice, $m) !== 1) {
            return null;
        }

        return (int) $m[1] >= 1 && (int) $m[1] <= self::MOST_DIFFERENT ? (int) $m[1] : throw InvalidValue::at('frames', $choice, 'different:1 to different:'.self::MOST_DIFFERENT);
    }

    /**
     * @return non-empty-list<int>
     *
     * @throws InvalidValue
     */
    private static function numbered(Item $clip, string $choice): array
    {
        $places = $clip->frames() ?? throw InvalidValue::at('item', $clip->path, 'a clip');
        $frames = match (true) {
            preg_match('/^every:([1-9]\d{0,5})$/D', $choice, $m) === 1 => range(0, $places - 1, (int) $m[1]),
            preg_match('/^stretch:(\d{1,7})-(\d{1,7})$/D', $choice, $m) === 1 && (int) $m[1] <= (int) $m[2] => range((int) $m[1], (int) $m[2]),
            preg_match('/^list:(\d{1,7}(?:,\d{1,7})*)$/D', $choice, $m) === 1 => array_values(array_unique(array_map(intval(...), explode(',', $m[1])))),
            default => throw InvalidValue::at('frames', $choice, 'every:N, list:0,5,9, stretch:10-40 or different:N'),
        };
        sort($frames);
        if (end($frames) >= $places) {
            throw InvalidValue::at('frames', end($frames), 'frames from 0 to '.($places - 1));
        }

        return $frames;
    }

    /**
     * @param  list<int>  $frames  in order
     * @param  Closure(int): void  $progress  told how many more are done; may throw to stop
     * @return array{taken: int, known: int}
     */
    public function __invoke(Item $clip, array $frames, Project $into, Closure $progress): array
    {
        $report = ['taken' => 0, 'known' => 0];
        $stem = (string) preg_replace('/\.[^.\/]+$/', '', $clip->path);
        foreach (array_chunk($frames, self::CHUNK) as $some) {
            $folder = storage_path('tmp/frames-'.bin2hex(random_bytes(6)));
            File::ensureDirectoryExists($folder, 0o770);
            try {
                $items = [];
                foreach ($this->clips->exact($clip->asset, $some, $folder) as $frame => $file) {
                    $path = sprintf('%s/%06d.png', $stem, $frame);
                    $known = Item::query()->where('project_id', $into->id)->where('path', $path)->with('asset')->first();
                    if ($known !== null) {
                        $report['known']++;
                        // a try that broke off may have taken it and no more
                        if ($known->asset->derived_at === null && $known->asset->sha256 === hash_file('sha256', $file)) {
                            $this->remember($known->id, $clip, $frame);
                            $items[] = $known->id;
                        }

                        continue;
                    }
                    // two frames may be the same picture; each is one of its own
                    $outcome = $this->take->one($into, $file, $path, true);
                    if ($outcome->state === 'taken' && $outcome->item !== null) {
                        $this->remember($outcome->item, $clip, $frame);
                        $items[] = $outcome->item;
                        $report['taken']++;
                    } else {
                        $report['known']++;
                    }
                }
                $this->take->derive($items, false);
            } finally {
                File::deleteDirectory($folder);
            }
            $progress(count($some));
        }

        return $report;
    }

    private function remember(int $item, Item $clip, int $frame): void
    {
        DB::transaction(static function () use ($item, $clip, $frame): void {
            DB::table('item_files')->insertOrIgnore(['item_id' => $item, 'asset_id' => $clip->asset_id, 'role' => self::ROLE, 'place' => $frame]);
            Item::query()->whereKey($item)->firstOrFail()->update(['facts' => ['clip' => $clip->path, 'frame' => (string) $frame], 'part' => $clip->part]);
        });
    }

    /**
     * Of pictures of a project that were frames of clips, the bytes of the clip: they go to one part of a split.
     *
     * @return array<string, string> SHA-256 by path
     */
    public static function clips(int $project): array
    {
        /** @var array<string, string> */
        return DB::table('items')->join('item_files', 'item_files.item_id', '=', 'items.id')->join('assets', 'assets.id', '=', 'item_files.asset_id')
            ->where('items.project_id', $project)->where('item_files.role', self::ROLE)->pluck('assets.sha256', 'items.path')->all();
    }
}
