<?php

declare(strict_types=1);

namespace Skeno\Core\Archive;

use RuntimeException;
use ZipArchive;

/**
 * Reads a zip from a stranger: entry names are made safe or refused, the total unpacked size and the number of entries are
 * limited by the directory before anything is unpacked, and by the bytes really read while unpacking.
 */
final class ZipSource
{
    /** @param  array<string, int>  $entries safe relative path => place in the zip */
    private function __construct(private readonly ZipArchive $zip, public readonly array $entries, /** @var array<string, string> name => why */ public readonly array $refused, private readonly int $maxEntry)
    {
    }

    /**
     * @param  int  $maxTotal  most bytes of all entries together, unpacked
     * @param  int  $maxEntry  most bytes of one entry
     *
     * @throws UnsafeArchive
     */
    public static function open(string $file, int $maxTotal, int $maxEntry, int $maxEntries = 200_000): self
    {
        $zip = new ZipArchive;
        $code = $zip->open($file, ZipArchive::RDONLY);
        if ($code !== true) {
            throw UnsafeArchive::because("this is not a readable zip (code {$code})");
        }
        if ($zip->count() > $maxEntries) {
            throw UnsafeArchive::because("the zip has {$zip->count()} entries; at most {$maxEntries} are taken");
        }
        $entries = $refused = [];
        $total = 0;
        for ($i = 0; $i < $zip->count(); $i++) {
            $stat = $zip->statIndex($i);
            if ($stat === false) {
                throw UnsafeArchive::because("entry {$i} of the zip can't be read");
            }
            $name = mb_scrub($stat['name']);
            if (str_ends_with($name, '/')) {
                continue;
            }
            $total += $stat['size'];
            if ($total > $maxTotal) {
                throw UnsafeArchive::because('the zip unpacks to more than '.number_format($maxTotal / 1e9, 1).' GB');
            }
            $path = self::safePath($name);
            if ($path === null) {
                $refused[$name] = 'its path climbs out of the folder';
            } elseif ($stat['encryption_method'] !== ZipArchive::EM_NONE) {
                $refused[$name] = 'it is encrypted';
            } elseif (self::isLink($zip, $i)) {
                $refused[$name] = 'it is a link';
            } elseif (! self::isClutter($path)) {
                $entries[$path] = $i;
            }
        }
        ksort($entries, SORT_STRING);

        return new self($zip, $entries, $refused, $maxEntry);
    }

    /**
     * Unpacks one entry into a file. Counts the bytes that really come, since the directory of a zip may lie.
     *
     * @throws UnsafeArchive
     */
    public function extract(string $path, string $target): void
    {
        $in = $this->zip->getStreamIndex($this->entries[$path]);
        $out = fopen($target, 'xb');
        if ($in === false || $out === false) {
            throw UnsafeArchive::because("\"{$path}\" can't be unpacked");
        }
        try {
            $bytes = 0;
            while (! feof($in)) {
                $chunk = fread($in, 1 << 20);
                if ($chunk === false) {
                    throw UnsafeArchive::because("\"{$path}\" is damaged in the zip");
                }
                $bytes += strlen($chunk);
                if ($bytes > $this->maxEntry) {
                    throw UnsafeArchive::because("\"{$path}\" unpacks to more than ".number_format($this->maxEntry / 1e6).' MB');
                }
                if ($chunk !== '' && fwrite($out, $chunk) !== strlen($chunk)) {
                    throw new RuntimeException('the disk is full');
                }
            }
        } finally {
            fclose($in);
            fclose($out);
        }
    }

    /** A relative path with forward slashes and no way out; null when it has one. */
    public static function safePath(string $name): ?string
    {
        $name = str_replace('\\', '/', $name);
        if ($name === '' || $name[0] === '/' || str_contains($name, "\0") || preg_match('/^[A-Za-z]:\//', $name) === 1 || ! mb_check_encoding($name, 'UTF-8') || strlen($name) > 1000) {
            return null;
        }
        $parts = [];
        foreach (explode('/', $name) as $part) {
            if ($part === '..') {
                return null;
            }
            if ($part !== '' && $part !== '.') {
                // what one system takes for a drive or a stream is only a sign in a name; it is cleaned, not refused
                $parts[] = str_replace(':', '_', $part);
            }
        }

        return $parts === [] ? null : implode('/', $parts);
    }

    /** What operating systems leave behind and nobody means. */
    public static function isClutter(string $path): bool
    {
        $base = basename($path);

        return str_starts_with($path, '__MACOSX/') || str_starts_with($base, '._') || in_array($base, ['.DS_Store', 'Thumbs.db', 'desktop.ini'], true);
    }

    private static function isLink(ZipArchive $zip, int $index): bool
    {
        $system = $attributes = 0;
        $zip->getExternalAttributesIndex($index, $system, $attributes);

        return $system === ZipArchive::OPSYS_UNIX && is_int($attributes) && (($attributes >> 16) & 0o170000) === 0o120000;
    }
}
