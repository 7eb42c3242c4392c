<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

/**
 * A file made of a clip for the screen, and where in it each frame lies: H.264 without frames that look ahead, one sample after the other, a
 * key frame every GROUP frames. With `codec` and `description` a decoder needs nothing else of the file but the bytes of a group.
 */
final readonly class Rendition
{
    /** Frames from one key frame to the next: to reach any frame at most so many are decoded. */
    public const GROUP = 12;

    /**
     * @param  string  $codec  as WebCodecs names it, such as avc1.64001f
     * @param  string  $description  the decoder configuration record (ISO/IEC 14496-15), in base64
     * @param  int  $offset  of the first sample in the file, in bytes
     * @param  non-empty-list<int>  $sizes  of the samples, in bytes
     */
    private function __construct(public string $file, public int $width, public int $height, public string $codec, public string $description, public int $offset, public array $sizes)
    {
    }

    /**
     * Reads the index of a file that was made here.
     *
     * @return array{self, list<int>} and the time of each frame, in ticks
     *
     * @throws RefusedClip when it is not as it was to be made: nothing that is shown or exported could be trusted
     */
    public static function of(string $file, Program $program): array
    {
        $said = $program->probe(['-select_streams', 'v:0', '-show_entries', 'packet=pts,dts,size,pos,flags:stream=width,height', ...Program::input($file, 'mov')]);
        $packets = is_array($said['packets'] ?? null) ? array_values($said['packets']) : [];
        $stream = is_array($said['streams'] ?? null) && is_array($said['streams'][0] ?? null) ? $said['streams'][0] : [];
        $sizes = $times = [];
        $first = $next = null;
        foreach ($packets as $k => $packet) {
            $packet = is_array($packet) ? $packet : [];
            [$at, $size, $time] = [self::number($packet['pos'] ?? -1), self::number($packet['size'] ?? -1), self::number($packet['pts'] ?? -1)];
            $isKey = str_contains(is_string($packet['flags'] ?? null) ? $packet['flags'] : '', 'K');
            if ($at < 0 || $size < 1 || $time !== self::number($packet['dts'] ?? -2) || ($next !== null && $at !== $next) || $isKey !== ($k % self::GROUP === 0)) {
                throw RefusedClip::because("what was made of it for the screen is not in order at frame {$k}");
            }
            $first ??= $at;
            $next = $at + $size;
            $sizes[] = $size;
            $times[] = $time;
        }
        if ($sizes === [] || $first === null) {
            throw RefusedClip::because('none of its pictures could be decoded');
        }
        $description = self::description($file);

        return [new self(basename($file), self::number($stream['width'] ?? 0), self::number($stream['height'] ?? 0), sprintf('avc1.%02x%02x%02x', ord($description[1]), ord($description[2]), ord($description[3])), base64_encode($description), $first, $sizes), $times];
    }

    /** @return array{file: string, width: int, height: int, codec: string, description: string, offset: int, sizes: non-empty-list<int>} */
    public function toArray(): array
    {
        return ['file' => $this->file, 'width' => $this->width, 'height' => $this->height, 'codec' => $this->codec, 'description' => $this->description, 'offset' => $this->offset, 'sizes' => $this->sizes];
    }

    /** What stands in the avcC box; the index of the file lies at its front. */
    private static function description(string $file): string
    {
        $head = (string) file_get_contents($file, false, null, 0, 16_000_000);
        $at = strpos($head, 'avcC');
        if ($at === false || $at < 4) {
            throw RefusedClip::because('what was made of it for the screen has no decoder configuration');
        }
        $size = self::number((unpack('N', substr($head, $at - 4, 4)) ?: [1 => 8])[1]);

        return substr($head, $at + 4, $size - 8);
    }

    private static function number(mixed $said): int
    {
        return is_numeric($said) ? (int) $said : -1;
    }
}
