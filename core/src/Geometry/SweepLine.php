<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

/**
 * The edges that a line sweeping from left to right stands on, in their order along the line. Kept in short runs, so that putting an edge
 * in or taking it out moves few others.
 */
final class SweepLine
{
    private const RUN = 96;

    /** @var list<int> ids of the runs, in order */
    private array $order = [];

    /** @var array<int, list<int>> edges by run */
    private array $runs = [];

    /** @var array<int, int> run by edge */
    private array $runOf = [];

    private int $next = 0;

    /** @param  \Closure(int, int): int  $compare  where the first edge, which begins now, lies against the second: below 0 before it */
    public function __construct(private readonly \Closure $compare)
    {
    }

    /** @return array{?int, ?int} the edges before and after it */
    public function put(int $edge): array
    {
        if ($this->order === []) {
            $this->order[] = $this->next;
            $this->runs[$this->next] = [$edge];
            $this->runOf[$edge] = $this->next++;

            return [null, null];
        }
        // the last run whose first edge is not after the new one
        [$low, $high] = [0, count($this->order) - 1];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            if (($this->compare)($edge, $this->runs[$this->order[$middle]][0]) < 0) {
                $high = $middle - 1;
            } else {
                $low = $middle;
            }
        }
        $id = $this->order[$low];
        $run = $this->runs[$id];
        [$from, $to] = [0, count($run)];
        while ($from < $to) {
            $middle = intdiv($from + $to, 2);
            if (($this->compare)($edge, $run[$middle]) < 0) {
                $to = $middle;
            } else {
                $from = $middle + 1;
            }
        }
        array_splice($run, $from, 0, [$edge]);
        $this->runs[$id] = $run;
        $this->runOf[$edge] = $id;
        $around = [$run[$from - 1] ?? $this->last($low - 1), $run[$from + 1] ?? $this->first($low + 1)];
        if (count($run) > self::RUN) {
            $this->split($low);
        }

        return $around;
    }

    /** @return array{?int, ?int} the edges that are neighbours now that it is gone */
    public function take(int $edge): array
    {
        $id = $this->runOf[$edge];
        unset($this->runOf[$edge]);
        $at = (int) array_search($id, $this->order, true);
        $run = $this->runs[$id];
        $place = (int) array_search($edge, $run, true);
        $around = [$run[$place - 1] ?? $this->last($at - 1), $run[$place + 1] ?? $this->first($at + 1)];
        array_splice($run, $place, 1);
        if ($run === []) {
            unset($this->runs[$id]);
            array_splice($this->order, $at, 1);
        } else {
            $this->runs[$id] = $run;
        }

        return $around;
    }

    private function split(int $at): void
    {
        $run = $this->runs[$this->order[$at]];
        $half = intdiv(count($run), 2);
        $later = array_slice($run, $half);
        $this->runs[$this->order[$at]] = array_slice($run, 0, $half);
        foreach ($later as $edge) {
            $this->runOf[$edge] = $this->next;
        }
        $this->runs[$this->next] = $later;
        array_splice($this->order, $at + 1, 0, [$this->next++]);
    }

    private function first(int $at): ?int
    {
        return isset($this->order[$at]) ? $this->runs[$this->order[$at]][0] : null;
    }

    private function last(int $at): ?int
    {
        if ($at < 0) {
            return null;
        }
        $run = $this->runs[$this->order[$at]];

        return $run[count($run) - 1];
    }
}
