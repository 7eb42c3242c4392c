<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/** A scan as it came: where its voxels are in space, and the voxels, slice by slice in the order of the file. */
interface Source
{
    public function grid(): Grid;

    public function scalar(): Scalar;

    /** @return array{float, float} slope and intercept: what is measured is the number in the file times the one, plus the other */
    public function scaling(): array;

    /** @return list<Window> as the file says one looks at it; may be empty */
    public function windows(): array;

    /**
     * The voxels of each slice along the third axis, first axis fastest, as their numbers stand in the file. May be gone through again.
     *
     * @return iterable<int, list<int|float>>
     *
     * @throws RefusedVolume when the file ends before its voxels do
     */
    public function slices(): iterable;
}
