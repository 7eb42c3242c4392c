<?php

declare(strict_types=1);

// Router for PHP's own web server: static files with cache headers, everything else to Laravel.
$path = rawurldecode((string) parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH));
if ($path !== '/' && ! str_contains($path, "\0") && ! str_contains($path, '..') && ! str_ends_with($path, '.php') && is_file($file = __DIR__.'/public'.$path)) {
    $types = ['js' => 'text/javascript; charset=utf-8', 'css' => 'text/css; charset=utf-8', 'json' => 'application/json', 'svg' => 'image/svg+xml', 'png' => 'image/png', 'woff2' => 'font/woff2', 'woff' => 'font/woff', 'txt' => 'text/plain; charset=utf-8'];
    $etag = '"'.dechex((int) filemtime($file)).'-'.dechex((int) filesize($file)).'"';
    header('Cache-Control: '.(str_starts_with($path, '/_app/immutable/') ? 'public, max-age=31536000, immutable' : 'no-cache'));
    header('ETag: '.$etag);
    header('X-Content-Type-Options: nosniff');
    if (($_SERVER['HTTP_IF_NONE_MATCH'] ?? '') === $etag) {
        http_response_code(304);

        return true;
    }
    header('Content-Type: '.($types[strtolower(pathinfo($file, PATHINFO_EXTENSION))] ?? 'application/octet-stream'));
    header('Content-Length: '.filesize($file));
    if ($_SERVER['REQUEST_METHOD'] !== 'HEAD') {
        readfile($file);
    }

    return true;
}
$_SERVER['SCRIPT_NAME'] = '/index.php';
$_SERVER['SCRIPT_FILENAME'] = __DIR__.'/public/index.php';
require __DIR__.'/public/index.php';
