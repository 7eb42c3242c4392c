<?php

declare(strict_types=1);

namespace App\Chores;

use App\Intake\TakeFacts;
use App\Intake\TakeFrames;
use App\Items\ItemStates;
use App\Models\Assignment;
use App\Models\Chore;
use App\Models\Item;
use App\Models\Project;
use App\Models\User;
use App\Support\Cancelled;
use App\Support\Refusal;
use App\Work\HandOut;
use Illuminate\Support\Facades\DB;
use RuntimeException;
use Skeno\Core\InvalidValue;

/** Work on many items that is done by the worker, a chunk a transaction, with the place it came to: stopped anywhere it goes on there. */
final class Chores
{
    /** Items up to which something is done while who asked waits for it. */
    public const AT_ONCE = 2000;

    /** Items done between two looks whether it has been cancelled. */
    public const CHUNK = 1000;

    public function __construct(private readonly HandOut $handOut, private readonly TakeFacts $facts, private readonly TakeFrames $frames)
    {
    }

    /**
     * @param  'hand_out'|'withdraw'|'archive'|'facts'|'frames'  $kind
     * @param  array<string, mixed>  $input
     */
    public function begin(Project $project, ?User $user, string $kind, array $input, int $total): Chore
    {
        return DB::transaction(static function () use ($project, $user, $kind, $input, $total): Chore {
            $chore = Chore::query()->create(['project_id' => $project->id, 'user_id' => $user?->id, 'kind' => $kind, 'input' => $input, 'total' => $total])->refresh();
            dispatch(new RunChore($chore->id));

            return $chore;
        });
    }

    public function cancel(Chore $chore): Chore
    {
        Chore::query()->whereKey($chore->id)->whereIn('state', ['waiting', 'working', 'failed'])->update(['state' => 'cancelled']);
        if ($chore->refresh()->state === 'cancelled') {
            self::sweep($chore);
        }

        return $chore;
    }

    /** Stops the making of turns of an assignment that is taken back. */
    public function cancelHandOut(Assignment $assignment): void
    {
        foreach (Chore::query()->where('project_id', $assignment->project_id)->where('kind', 'hand_out')->whereIn('state', ['waiting', 'working', 'failed'])->where('input->assignment', $assignment->id)->get() as $chore) {
            $this->cancel($chore);
        }
    }

    public function retry(Chore $chore): Chore
    {
        return DB::transaction(static function () use ($chore): Chore {
            if (Chore::query()->whereKey($chore->id)->where('state', 'failed')->update(['state' => 'waiting', 'error' => '']) === 0) {
                throw Refusal::because('not_failed', 'only what has failed can be tried again');
            }
            dispatch(new RunChore($chore->id));

            return $chore->refresh();
        });
    }

    /** Where the table of a chore that takes in facts lies. */
    public static function table(Chore $chore): string
    {
        return storage_path("uploads/chore-{$chore->id}.csv");
    }

    /** @throws Cancelled */
    public function run(Chore $chore): void
    {
        // not from what was read before: somebody may have cancelled it meanwhile
        if (Chore::query()->whereKey($chore->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'working', 'error' => '']) === 0) {
            throw Cancelled::byHand();
        }
        match ($chore->kind) {
            'hand_out' => $this->handOut($chore),
            'withdraw' => $this->withdraw($chore),
            'archive' => $this->archive($chore),
            'facts' => $this->facts($chore),
            'frames' => $this->frames($chore),
            default => throw new RuntimeException("there is no chore {$chore->kind}"),
        };
        Chore::query()->whereKey($chore->id)->where('state', 'working')->update(['state' => 'done', 'input' => '{}']);
        self::sweep($chore);
    }

    private function handOut(Chore $chore): void
    {
        $assignment = Assignment::query()->where('project_id', $chore->project_id)->find($chore->input['assignment'] ?? 0) ?? throw Refusal::because('assignment_gone', 'the assignment has been taken back meanwhile');
        foreach (array_chunk(array_slice($this->ids($chore), $chore->done), self::CHUNK) as $some) {
            DB::transaction(function () use ($chore, $assignment, $some): void {
                $this->goOn($chore, count($some));
                $this->handOut->turns($assignment, $some, ($chore->input['only_new'] ?? false) === true);
            });
        }
    }

    private function withdraw(Chore $chore): void
    {
        // gone with its last turn, it is taken back
        $assignment = Assignment::query()->where('project_id', $chore->project_id)->find($chore->input['assignment'] ?? 0);
        if ($assignment !== null) {
            $this->handOut->withdraw($assignment, fn (int $turns) => $this->goOn($chore, $turns));
        }
    }

    private function archive(Chore $chore): void
    {
        foreach (array_chunk(array_slice($this->ids($chore), $chore->done), self::CHUNK) as $some) {
            DB::transaction(function () use ($chore, $some): void {
                $this->goOn($chore, count($some));
                ItemStates::archive($chore->project, $some, ($chore->input['archived'] ?? true) === true);
            });
        }
    }

    private function facts(Chore $chore): void
    {
        // tried again it begins at the top of the table, which changes nothing that is taken in already
        $chore->update(['done' => 0]);
        $report = ($this->facts)($chore->project, self::table($chore), fn (int $rows) => $this->goOn($chore, $rows));
        $chore->update(['report' => $report]);
    }

    private function frames(Chore $chore): void
    {
        $clip = Item::query()->where('project_id', $chore->project_id)->with('asset')->find($chore->input['item'] ?? 0) ?? throw Refusal::because('item_gone', 'the clip is not in the project any more');
        $into = Project::query()->find($chore->input['into'] ?? 0) ?? throw Refusal::because('project_gone', 'the project the frames were to go into is gone');
        // tried again it goes through all of them: what is taken in already is known
        $chore->update(['done' => 0]);
        $choice = is_string($chore->input['frames'] ?? null) ? $chore->input['frames'] : '';
        // looking at them can be stopped as well
        $looked = 0;
        $frames = $this->frames->chosen($clip, $choice, function () use ($chore, &$looked): void {
            if ($looked++ % self::CHUNK === 0) {
                $this->goOn($chore, 0);
            }
        });
        $report = ($this->frames)($clip, $frames, $into, fn (int $frames) => $this->goOn($chore, $frames));
        $chore->update(['report' => $report]);
    }

    /** Notes how far it has come, in the transaction that did it; stops where somebody has cancelled. */
    private function goOn(Chore $chore, int $more): void
    {
        if (Chore::query()->whereKey($chore->id)->where('state', 'working')->update(['done' => DB::raw("done + {$more}")]) === 0) {
            throw Cancelled::byHand();
        }
    }

    /** @return list<int> */
    private function ids(Chore $chore): array
    {
        $ids = $chore->input['items'] ?? null;

        return is_array($ids) ? array_values(array_map(static fn (mixed $id): int => is_int($id) ? $id : throw InvalidValue::at('items', $id, 'ids'), $ids)) : throw InvalidValue::at('items', null, 'ids');
    }

    private static function sweep(Chore $chore): void
    {
        @unlink(self::table($chore));
    }
}
