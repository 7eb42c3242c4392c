<?php

declare(strict_types=1);

namespace App\Support;

use RuntimeException;

/** The one folder that holds all state of an installation: database, pictures, logs, caches, key. Named by SKENO_DATA. */
final class StateFolder
{
    /** Where it is, whether it is there or not. @param  string  $base  the folder of the code */
    public static function place(string $base): string
    {
        return (string) (getenv('SKENO_DATA') ?: ($_SERVER['SKENO_DATA'] ?? '') ?: "{$base}/storage/skeno");
    }

    /** Makes what is missing in it and returns its real path. */
    public static function prepare(string $folder): string
    {
        foreach (['', '/framework/cache/data', '/framework/sessions', '/framework/views', '/logs', '/bootstrap', '/assets', '/derived', '/uploads', '/releases', '/tmp'] as $part) {
            if (! is_dir($folder.$part) && ! @mkdir($folder.$part, 0o770, true) && ! is_dir($folder.$part)) {
                throw new RuntimeException("The state folder is not writable: {$folder}{$part}");
            }
        }
        $folder = (string) realpath($folder);
        // everything that artisan's *:cache commands write lives with the state, never in the code tree
        foreach (['SERVICES', 'PACKAGES', 'CONFIG', 'ROUTES', 'EVENTS'] as $name) {
            $_SERVER["APP_{$name}_CACHE"] = $_ENV["APP_{$name}_CACHE"] = $folder.'/bootstrap/'.strtolower($name).'.php';
        }
        self::key($folder);
        if (! is_file("{$folder}/skeno.sqlite")) {
            touch("{$folder}/skeno.sqlite");
        }

        return $folder;
    }

    /** The app key, made once and readable by the owner only; the first of two processes wins. */
    public static function key(string $folder): string
    {
        $file = "{$folder}/app.key";
        if (! is_file($file)) {
            $temporary = "{$file}.".getmypid();
            file_put_contents($temporary, 'base64:'.base64_encode(random_bytes(32)));
            chmod($temporary, 0o600);
            @link($temporary, $file);
            unlink($temporary);
        }

        return (string) file_get_contents($file);
    }
}
