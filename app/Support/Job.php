<?php

declare(strict_types=1);

namespace App\Support;

use Illuminate\Bus\Queueable;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Bus\Dispatchable;
use Illuminate\Queue\InteractsWithQueue;
use Illuminate\Support\Facades\DB;
use Throwable;

/**
 * Work for the worker. It is put in the queue in the transaction that wrote the row which waits for it, it may be run again after any
 * break, and what it can't do ends in a state of that row which a person sees.
 */
abstract class Job implements ShouldQueue
{
    use Dispatchable;
    use InteractsWithQueue;
    use Queueable;

    /** The queue of what nobody waits for: it is done when nothing else is to do. */
    public const BEHIND = 'behind';

    /** What the payload of a job in the queue names its subject by. */
    private const KEY = 'subject';

    public int $timeout = 3600;

    public int $tries = 4;

    /** @var list<int> seconds before it is tried again */
    public array $backoff = [3, 20, 120];

    /** The row it is about, such as `release:7`. */
    abstract public function subject(): string;

    /** Whether a job for this subject is in the queue, or being run. */
    public static function isQueued(string $subject): bool
    {
        return DB::table('jobs')->whereRaw("json_extract(payload, '$.".self::KEY."') = ?", [$subject])->exists();
    }

    /** @return array<string, true> the subjects of all jobs in the queue or being run: for who asks about many */
    public static function queued(): array
    {
        return array_fill_keys(DB::table('jobs')->selectRaw("json_extract(payload, '$.".self::KEY."') as subject")->pluck('subject')->filter()->map(strval(...))->all(), true);
    }

    /** @return array<string, string> */
    public static function payload(mixed $job): array
    {
        return $job instanceof self ? [self::KEY => $job->subject()] : [];
    }

    /** What a row says of a job that failed; without an exception the worker itself did not survive it. */
    final protected static function why(?Throwable $e): string
    {
        return $e?->getMessage() ?? 'the worker was stopped in the middle of it';
    }

    /** Tries once more later, or gives up at once where trying again would end the same. */
    final protected function givesUpOn(Throwable $e): bool
    {
        if (! Lock::isBusy($e) && ($e instanceof \Skeno\Core\InvalidValue || $e instanceof Refusal)) {
            $this->fail($e);

            return true;
        }

        return false;
    }
}
