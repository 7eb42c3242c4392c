<?php

declare(strict_types=1);

namespace App\Support;

use Illuminate\Database\Eloquent\Model;
use Throwable;

/** Work on a row that says how far it is, such as a run or a chore. It is gone on with after any break, and stopped by the row's state. */
abstract class RowJob extends Job
{
    final public function __construct(protected readonly int $row)
    {
    }

    /** @return class-string<Model> what its row is */
    abstract protected static function rows(): string;

    /** What its subject begins with. */
    abstract protected static function name(): string;

    /** @throws Cancelled when it was stopped meanwhile */
    abstract protected function work(): void;

    public function subject(): string
    {
        return static::name().":{$this->row}";
    }

    public function handle(): void
    {
        if (! static::rows()::query()->whereKey($this->row)->whereIn('state', ['waiting', 'working'])->exists()) {
            return;
        }
        try {
            $this->work();
        } catch (Cancelled) {
            return;
        } catch (Throwable $e) {
            if (! $this->givesUpOn($e)) {
                throw $e;
            }
        }
    }

    public function failed(?Throwable $e): void
    {
        static::rows()::query()->whereKey($this->row)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => self::why($e)]);
    }
}
