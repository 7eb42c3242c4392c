<?php

declare(strict_types=1);

// Limits of the installation. Each can be set in the environment.
return [
    'picture' => [
        'max_bytes' => (int) env('SKENO_PICTURE_MAX_BYTES', 100_000_000),
        'max_pixels' => (int) env('SKENO_PICTURE_MAX_PIXELS', 100_000_000),
    ],
    'clip' => [
        'max_bytes' => (int) env('SKENO_CLIP_MAX_BYTES', 20_000_000_000),
        'max_pixels' => (int) env('SKENO_CLIP_MAX_PIXELS', 36_000_000),
        'max_frames' => (int) env('SKENO_CLIP_MAX_FRAMES', 60_000),
        'max_seconds' => (int) env('SKENO_CLIP_MAX_SECONDS', 14_400),
        // what a decoder may take of memory and time
        'decoder_bytes' => (int) env('SKENO_CLIP_DECODER_BYTES', 6_000_000_000),
        'decoder_seconds' => (int) env('SKENO_CLIP_DECODER_SECONDS', 3_000),
    ],
    'document' => [
        'max_bytes' => (int) env('SKENO_DOCUMENT_MAX_BYTES', 500_000_000),
        'max_pages' => (int) env('SKENO_DOCUMENT_MAX_PAGES', 2_000),
        // of a page as it is drawn
        'max_pixels' => (int) env('SKENO_DOCUMENT_MAX_PIXELS', 40_000_000),
        // px an inch pages are drawn at, where whoever brings them in says nothing else
        'resolution' => (int) env('SKENO_DOCUMENT_RESOLUTION', 150),
        // what a program may take of memory and time for a page
        'program_bytes' => (int) env('SKENO_DOCUMENT_PROGRAM_BYTES', 2_000_000_000),
        'program_seconds' => (int) env('SKENO_DOCUMENT_PROGRAM_SECONDS', 60),
        // what words are read in, as Tesseract names it: eng, eng+deu; each is a package of Debian
        'languages' => (string) env('SKENO_DOCUMENT_LANGUAGES', 'eng'),
    ],
    'volume' => [
        'max_bytes' => (int) env('SKENO_VOLUME_MAX_BYTES', 20_000_000_000),
        'max_voxels' => (int) env('SKENO_VOLUME_MAX_VOXELS', 1_100_000_000),
        // along an axis
        'max_side' => (int) env('SKENO_VOLUME_MAX_SIDE', 4_096),
    ],
    'cloud' => [
        'max_bytes' => (int) env('SKENO_CLOUD_MAX_BYTES', 2_000_000_000),
        // of a frame
        'max_points' => (int) env('SKENO_CLOUD_MAX_POINTS', 5_000_000),
    ],
    'text' => [
        'max_bytes' => (int) env('SKENO_TEXT_MAX_BYTES', 5_000_000),
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
