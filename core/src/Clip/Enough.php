<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use RuntimeException;

/** No more frames are wanted. */
final class Enough extends RuntimeException
{
}
