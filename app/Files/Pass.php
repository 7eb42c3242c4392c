<?php

declare(strict_types=1);

namespace App\Files;

use App\Support\StateFolder;

/**
 * A pass for one small picture (thumbnail, crop), or for the tiles of a large one, in the query of its usual address: who was shown the address may have the file for an
 * hour or two without being asked again who they are. It is looked at before the application starts (public/index.php), which is most of
 * what a thumbnail costs; without a pass, with one that ran out or was made up, or when the file is not there (yet), the address is
 * answered like any other, with its policy. So a pass only ever saves time.
 *
 * Needs nothing but PHP: no autoloader, no framework.
 */
final class Pass
{
    /** Seconds for which all addresses of a picture are the same, so that browsers keep it; a pass is good for one to two of them. */
    public const SPAN = 3600;

    /** The addresses that may carry one. */
    private const ADDRESS = '#^/api/v1/projects/\d+/(?:items/\d+/(?:picture|tiles/(\d{1,2})/(\d{1,4})/(\d{1,4}))|objects/[0-9A-Z]+/crop)$#D';

    /** @var array<string, string> by the state folder */
    private static array $keys = [];

    /**
     * @param  string  $address  of the picture, with a query
     * @param  string  $file  below the folder of derived files; of tiles their folder
     * @return string the address, with a pass when the file is there
     */
    public static function on(string $address, string $file, string $folder, ?int $now = null): string
    {
        if (! file_exists("{$folder}/derived/{$file}")) {
            return $address;
        }
        $until = (intdiv($now ?? time(), self::SPAN) + 2) * self::SPAN;

        return "{$address}&pass={$until}.".self::mac($folder, $until, $file)."&file={$file}";
    }

    /**
     * Sends the file a pass is for.
     *
     * @param  string  $address  the path that was asked for
     * @param  array<array-key, mixed>  $query
     * @return bool false when the application has to answer
     */
    public static function serve(string $method, string $address, array $query, string $folder, ?int $now = null): bool
    {
        $file = in_array($method, ['GET', 'HEAD'], true) && preg_match(self::ADDRESS, $address, $tile) === 1 ? self::file($query, $folder, $now, isset($tile[1]) ? "/{$tile[1]}-{$tile[2]}-{$tile[3]}.jpg" : '') : null;
        if ($file === null) {
            return false;
        }
        header('Content-Type: image/jpeg');
        header('Cache-Control: private, max-age=31536000, immutable');
        header('X-Content-Type-Options: nosniff');
        header("Content-Security-Policy: default-src 'none'; frame-ancestors 'none'; sandbox");
        header('Content-Length: '.filesize($file));
        if ($method === 'GET') {
            readfile($file);
        }

        return true;
    }

    /**
     * @param  array<array-key, mixed>  $query
     * @param  string  $tile  in the folder the pass is for
     * @return ?string the file a pass is for, when it is good and the file there
     */
    public static function file(array $query, string $folder, ?int $now = null, string $tile = ''): ?string
    {
        $pass = $query['pass'] ?? null;
        $file = $query['file'] ?? null;
        if (! is_string($pass) || ! is_string($file) || preg_match('/^(\d{1,12})\.([0-9a-f]{32})$/D', $pass, $parts) !== 1) {
            return null;
        }
        $until = (int) $parts[1];
        if ($until <= ($now ?? time()) || ! hash_equals(self::mac($folder, $until, $file), $parts[2])) {
            return null;
        }
        $place = "{$folder}/derived/{$file}{$tile}";

        return is_file($place) ? $place : null;
    }

    private static function mac(string $folder, int $until, string $file): string
    {
        self::$keys[$folder] ??= StateFolder::key($folder);

        return substr(hash_hmac('sha256', "picture {$until} {$file}", self::$keys[$folder]), 0, 32);
    }
}
