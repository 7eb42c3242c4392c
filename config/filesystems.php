<?php

declare(strict_types=1);

// Pictures by content hash, and what is derived from them; each disk may be moved to another place by settings.
return [
    'default' => 'assets',
    'disks' => [
        'assets' => ['driver' => 'local', 'root' => storage_path('assets'), 'throw' => true],
        'handbook' => ['driver' => 'local', 'root' => storage_path('handbook'), 'throw' => true],
        'derived' => ['driver' => 'local', 'root' => storage_path('derived'), 'throw' => true],
    ],
];
