<?php

declare(strict_types=1);

namespace App\Documents;

use App\Models\Asset;
use App\Models\Reading;
use App\Support\Cancelled;
use App\Support\Job;
use App\Support\Refusal;
use Closure;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Document\RefusedDocument;

/** Which documents are being read, and how far. Stopped anywhere it goes on with the pages that are missing. */
final class Readings
{
    public function __construct(private readonly Words $words)
    {
    }

    /** Called in the transaction that wrote the document: its words are read later. */
    public static function begin(Asset $asset, int $pages): void
    {
        if (! Reading::query()->where('asset_id', $asset->id)->exists()) {
            self::ask(Reading::query()->create(['asset_id' => $asset->id, 'total' => $pages])->id);
        }
    }

    public static function of(Asset $asset): ?Reading
    {
        return Reading::query()->where('asset_id', $asset->id)->first();
    }

    public static function cancel(Reading $reading): Reading
    {
        Reading::query()->whereKey($reading->id)->whereIn('state', ['waiting', 'working', 'failed'])->update(['state' => 'cancelled']);

        return $reading->refresh();
    }

    /** Reads what is missing after all, and pages that could not be read once more. */
    public static function retry(Reading $reading): Reading
    {
        return DB::transaction(static function () use ($reading): Reading {
            $gone = DB::table('pages')->where('asset_id', $reading->asset_id)->where('source', 'failed')->count();
            if ($gone === 0 && Reading::query()->whereKey($reading->id)->whereIn('state', ['failed', 'cancelled'])->doesntExist()) {
                throw Refusal::because('not_failed', 'nothing of it has failed, and nobody has stopped it');
            }
            DB::table('pages')->where('asset_id', $reading->asset_id)->where('source', 'failed')->delete();
            $reading->update(['state' => 'waiting', 'error' => '', 'done' => max(0, $reading->done - $gone)]);
            self::ask($reading->id);

            return $reading->refresh();
        });
    }

    /**
     * @param  int  $seconds  after which it stops between two pages
     * @return bool whether all pages have been read
     *
     * @throws Cancelled
     */
    public function run(int $id, int $seconds): bool
    {
        $began = microtime(true);
        $reading = Reading::query()->with('asset')->findOrFail($id);
        $alive = static function () use ($id): void {
            // also when somebody has stopped it meanwhile
            if (Reading::query()->whereKey($id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working']) === 0) {
                throw Cancelled::byHand();
            }
        };
        $alive();
        if ($reading->asset->format === 'pdf' && $reading->done === 0) {
            $this->layers($reading, $alive);
        }
        $pages = array_sum(array_column(is_array($reading->asset->facts['sheets'] ?? null) ? $reading->asset->facts['sheets'] : [], 2));
        $there = array_fill_keys(DB::table('pages')->where('asset_id', $reading->asset_id)->pluck('place')->map(static fn (mixed $place): int => (int) $place)->all(), true);
        for ($place = 0; $place < $pages; $place++) {
            if (isset($there[$place])) {
                continue;
            }
            $alive();
            if (microtime(true) - $began > $seconds) {
                return false;
            }
            $this->words->of($reading->asset, $place);
            Reading::query()->whereKey($id)->update(['done' => DB::raw('done + 1')]);
        }
        $failed = DB::table('pages')->where('asset_id', $reading->asset_id)->where('source', 'failed');
        Reading::query()->whereKey($id)->whereIn('state', ['waiting', 'working'])->update(['state' => $failed->exists() ? 'failed' : 'done', 'error' => (string) $failed->min('reason'), 'done' => DB::raw('total')]);

        return true;
    }

    /** What the file says itself, in one go; where that fails each page says why. @param  Closure(): void  $alive */
    private function layers(Reading $reading, Closure $alive): void
    {
        try {
            $this->words->layers($reading->asset, $alive);
        } catch (RefusedDocument $e) {
            report($e);
        }
        Reading::query()->whereKey($reading->id)->update(['done' => DB::table('pages')->where('asset_id', $reading->asset_id)->count()]);
    }

    private static function ask(int $id): void
    {
        dispatch((new ReadDocument($id))->onQueue(Job::BEHIND));
    }
}
