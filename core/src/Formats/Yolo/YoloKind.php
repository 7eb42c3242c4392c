<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

/** What the lines of a YOLO dataset say. */
enum YoloKind
{
    /** `class cx cy w h` */
    case Boxes;

    /** `class x1 y1 x2 y2 x3 y3 x4 y4`, corners clockwise */
    case Turned;

    /** `class x1 y1 x2 y2 …`, one ring */
    case Segments;

    /** `class cx cy w h` and `x y v` for each node */
    case Pose;
}
