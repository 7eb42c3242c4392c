<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Yolo;

/** Where YOLO's files lie. Both are read without being told which it is. */
enum YoloLayout: string
{
    /** `images/` and `labels/` beside each other, `data.yaml` */
    case Folders = 'folders';
    /** the older one: the text beside its picture, a `.names` list, `train.txt` and `valid.txt` with the paths of their pictures */
    case Together = 'together';
}
