<?php

declare(strict_types=1);

return [
    'default' => 'daily',
    'channels' => ['daily' => ['driver' => 'daily', 'path' => storage_path('logs/skeno.log'), 'days' => 14, 'level' => 'info']],
];
