<?php

declare(strict_types=1);

use App\Support\StateFolder;

return [
    'name' => 'Skeno',
    'env' => env('APP_ENV', 'production'),
    'debug' => (bool) env('APP_DEBUG', false),
    'url' => env('APP_URL', 'http://127.0.0.1:8000'),
    'timezone' => 'UTC',
    'key' => env('APP_KEY') ?: StateFolder::key(storage_path()),
    'cipher' => 'AES-256-CBC',
];
