<?php

declare(strict_types=1);

return [
    'driver' => env('SESSION_DRIVER', 'file'),
    'lifetime' => 60 * 24 * 7,
    'files' => storage_path('framework/sessions'),
    'cookie' => 'skeno_session',
    'http_only' => true,
    'same_site' => 'lax',
];
