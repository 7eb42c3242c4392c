<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** A point cloud as it came. */
interface Source
{
    /** How many points it has; null: that is known when it has been read. */
    public function count(): ?int;

    /**
     * Its points, some at a time, in the order of the file. May be gone through again.
     *
     * @return iterable<Points>
     *
     * @throws RefusedCloud when the file ends before its points do, or is damaged
     */
    public function points(): iterable;
}
