<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use RuntimeException;

/** The folder a format is written into or read from. Paths are relative, with forward slashes, and stay inside. */
final readonly class Folder
{
    /** @param  bool  $passing the folder is only packed and then removed, so files may be taken into it as links */
    public function __construct(public string $root, private bool $passing = false)
    {
    }

    public function write(string $path, string $contents): void
    {
        if (@file_put_contents($this->prepare($path), $contents) !== strlen($contents)) {
            throw new RuntimeException("\"{$path}\" could not be written: is the disk full?");
        }
    }

    /** @return resource for writing, buffered; close it by fclose */
    public function create(string $path)
    {
        $stream = @fopen($this->prepare($path), 'wb');

        return $stream === false ? throw new RuntimeException("\"{$path}\" could not be written") : $stream;
    }

    /** A copy, so that what is done to it later does not reach the source; in a passing folder a hard link where the disk allows it. */
    public function take(string $path, string $source): void
    {
        $target = $this->prepare($path);
        if (! ($this->passing && @link($source, $target)) && ! @copy($source, $target)) {
            throw new RuntimeException("\"{$path}\" could not be copied: is the disk full?");
        }
    }

    public function file(string $path): string
    {
        return "{$this->root}/{$path}";
    }

    public function has(string $path): bool
    {
        return is_file($this->file($path));
    }

    public function read(string $path, int $maxBytes = 64 << 20): string
    {
        $size = @filesize($this->file($path));
        if ($size === false || $size > $maxBytes) {
            throw new RuntimeException($size === false ? "\"{$path}\" can't be read" : "\"{$path}\" is larger than ".($maxBytes >> 20).' MB');
        }

        return (string) file_get_contents($this->file($path));
    }

    /** @return list<string> all files in byte order of their paths */
    public function files(): array
    {
        return \Skeno\Core\Archive\ZipTarget::files($this->root);
    }

    private function prepare(string $path): string
    {
        $file = $this->file($path);
        $folder = dirname($file);
        if (! is_dir($folder) && ! @mkdir($folder, 0o770, true) && ! is_dir($folder)) {
            throw new RuntimeException("the folder of \"{$path}\" could not be made");
        }

        return $file;
    }
}
