<?php

declare(strict_types=1);

// Limits of the installation. Each can be set in the environment.
return [
    'picture' => [
        'max_bytes' => (int) env('SKENO_PICTURE_MAX_BYTES', 100_000_000),
        'max_pixels' => (int) env('SKENO_PICTURE_MAX_PIXELS', 100_000_000),
    ],
    'upload' => [
        // PHP's own limits do not matter: a file comes in pieces of at most this size
        'piece_bytes' => 4_000_000,
        'max_bytes' => (int) env('SKENO_UPLOAD_MAX_BYTES', 20_000_000_000),
    ],
    'zip' => [
        'max_total_bytes' => (int) env('SKENO_ZIP_MAX_BYTES', 20_000_000_000),
    ],
    'invitation_days' => 7,
];
