<?php

declare(strict_types=1);

namespace Skeno\Core\Imaging;

/** The picture formats taken in, told by their first bytes, never by their name. */
enum PictureFormat: string
{
    case Jpeg = 'jpeg';
    case Png = 'png';
    case Webp = 'webp';
    case Bmp = 'bmp';
    case Tiff = 'tiff';
    case Gif = 'gif';

    /** @param  string  $head the first 16 bytes or more */
    public static function sniff(string $head): ?self
    {
        return match (true) {
            str_starts_with($head, "\xFF\xD8\xFF") => self::Jpeg,
            str_starts_with($head, "\x89PNG\r\n\x1A\n") => self::Png,
            str_starts_with($head, 'RIFF') && substr($head, 8, 4) === 'WEBP' => self::Webp,
            str_starts_with($head, 'BM') => self::Bmp,
            str_starts_with($head, "II*\0"), str_starts_with($head, "MM\0*"), str_starts_with($head, "II+\0"), str_starts_with($head, "MM\0+") => self::Tiff,
            str_starts_with($head, 'GIF87a'), str_starts_with($head, 'GIF89a') => self::Gif,
            default => null,
        };
    }

    /** @return list<string> file name endings that go with the format */
    public function extensions(): array
    {
        return match ($this) {
            self::Jpeg => ['jpg', 'jpeg', 'jpe', 'jfif'],
            self::Tiff => ['tif', 'tiff'],
            self::Bmp => ['bmp', 'dib'],
            default => [$this->value],
        };
    }

    public static function ofName(string $name): ?self
    {
        $ending = strtolower(pathinfo($name, PATHINFO_EXTENSION));
        foreach (self::cases() as $format) {
            if (in_array($ending, $format->extensions(), true)) {
                return $format;
            }
        }

        return null;
    }

    public function mime(): string
    {
        return 'image/'.$this->value;
    }
}
