<?php

declare(strict_types=1);

namespace Skeno\Core\Formats;

use Closure;
use Skeno\Core\Text\Text;

/**
 * The pictures of a project, to match the names in label files with. A name matches when one of the two paths ends with the
 * whole of the other (`images/train/slope/a.jpg` and `slope/a.jpg`); the longest match wins, two equally long ones are ambiguous.
 */
final class KnownPictures
{
    /** @var array<string, list<array{list<string>, KnownPicture}>> by stem of the base name: path parts from the end */
    private array $byStem = [];

    /**
     * @param  iterable<KnownPicture>  $pictures
     * @param  ?Closure(KnownPicture): ?Text  $text  of a text its words, where they are at hand
     */
    public function __construct(iterable $pictures, private readonly ?Closure $text = null)
    {
        foreach ($pictures as $picture) {
            $parts = self::parts($picture->path);
            $this->byStem[self::stem($parts[0])][] = [$parts, $picture];
        }
    }

    /** The words of a text; null where they are not at hand. */
    public function text(KnownPicture $known): ?Text
    {
        return $known->length === null || $this->text === null ? null : ($this->text)($known);
    }

    /** @param  bool  $anyEnding true: the ending of the file name does not count (a.txt beside a.jpg) */
    public function find(string $name, bool $anyEnding = false): KnownPicture|string
    {
        $wanted = self::parts($name);
        $best = $second = null;
        $length = 0;
        foreach ($this->byStem[self::stem($wanted[0])] ?? [] as [$parts, $picture]) {
            if (! $anyEnding && strcasecmp($parts[0], $wanted[0]) !== 0) {
                continue;
            }
            $common = 1;
            while (isset($parts[$common], $wanted[$common]) && $parts[$common] === $wanted[$common]) {
                $common++;
            }
            if ($common < min(count($parts), count($wanted)) || $common < $length) {
                continue;
            }
            $second = $common === $length ? $best : null;
            [$best, $length] = [$picture, $common];
        }

        return match (true) {
            $best === null => "picture \"{$name}\" is not in the project",
            $second !== null => "picture \"{$name}\" fits both \"{$second->path}\" and \"{$best->path}\"",
            default => $best,
        };
    }

    /** @return non-empty-list<string> parts of a path from its end, whatever system wrote it */
    private static function parts(string $path): array
    {
        $parts = array_values(array_filter(explode('/', str_replace('\\', '/', trim($path))), static fn (string $part): bool => $part !== '' && $part !== '.' && $part !== '..'));

        return $parts === [] ? [''] : array_reverse($parts);
    }

    private static function stem(string $base): string
    {
        $base = (string) preg_replace('/\.nii\.gz$/i', '.nii', $base);
        $dot = strrpos($base, '.');

        return mb_strtolower($dot === false || $dot === 0 ? $base : substr($base, 0, $dot));
    }
}
