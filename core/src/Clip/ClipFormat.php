<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

/** The containers clips are taken in, told by their first bytes, never by their name. */
enum ClipFormat: string
{
    case Mp4 = 'mp4';
    case Mov = 'mov';
    case Mkv = 'mkv';
    case Webm = 'webm';
    case Avi = 'avi';

    /** @param  string  $head the first 64 bytes or more */
    public static function sniff(string $head): ?self
    {
        $box = substr($head, 4, 4);

        return match (true) {
            $box === 'ftyp' => substr($head, 8, 4) === 'qt  ' ? self::Mov : self::Mp4,
            // older files begin with another box of the same family
            in_array($box, ['moov', 'mdat', 'wide', 'free', 'skip'], true) => self::Mov,
            str_starts_with($head, "\x1A\x45\xDF\xA3") => str_contains(substr($head, 0, 64), 'webm') ? self::Webm : self::Mkv,
            str_starts_with($head, 'RIFF') && substr($head, 8, 4) === 'AVI ' => self::Avi,
            default => null,
        };
    }

    public static function ofName(string $name): ?self
    {
        $ending = strtolower(pathinfo($name, PATHINFO_EXTENSION));

        return $ending === 'm4v' ? self::Mp4 : self::tryFrom($ending);
    }

    /** The one reader that is let at the file: a list of addresses in the guise of a clip is none. */
    public function demuxer(): string
    {
        return match ($this) {
            self::Mp4, self::Mov => 'mov',
            self::Mkv, self::Webm => 'matroska',
            self::Avi => 'avi',
        };
    }
}
