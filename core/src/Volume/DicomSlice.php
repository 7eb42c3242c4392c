<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

/**
 * One slice of a DICOM series, uncompressed, little end first: only what says where its pixels are in space and what they measure is read. Names,
 * dates, institutions and whatever private fields hold are passed over, so that they can be neither stored nor shown.
 *
 * Source: DICOM PS3.5 (encoding), PS3.3 C.7.6.2 (image plane), C.7.6.3 (image pixel), C.11.1 (rescale), C.11.2 (window).
 */
final readonly class DicomSlice
{
    /** Transfer syntaxes that are read as they are; others are unpacked before. */
    private const IMPLICIT = '1.2.840.10008.1.2';

    private const EXPLICIT = '1.2.840.10008.1.2.1';

    /** Elements of a file that are walked over: private junk ends somewhere. */
    private const MOST_ELEMENTS = 200_000;

    /** Bytes of a value that is read. */
    private const MOST_VALUE = 4096;

    /** @var array<int, string> fields that are read, by group and element */
    private const FIELDS = [
        0x0020_000E => 'series', 0x0020_0013 => 'number', 0x0020_0032 => 'position', 0x0020_0037 => 'orientation', 0x0018_0050 => 'thickness', 0x0028_0002 => 'samples', 0x0028_0004 => 'photometric', 0x0028_0008 => 'frames',
        0x0028_0010 => 'rows', 0x0028_0011 => 'columns', 0x0028_0030 => 'spacing', 0x0028_0100 => 'allocated', 0x0028_0101 => 'stored', 0x0028_0102 => 'high', 0x0028_0103 => 'signed', 0x0028_1050 => 'center', 0x0028_1051 => 'width',
        0x0028_1052 => 'intercept', 0x0028_1053 => 'slope',
    ];

    /**
     * @param  string  $series  its identifier, only to tell slices of one series from those of another
     * @param  list<float>  $position  mm of the middle of its first pixel, in the axes of DICOM: left, back, up
     * @param  list<float>  $orientation  directions of its rows and columns
     * @param  array{float, float}  $spacing  mm from a column to the next, and from a row to the next
     */
    private function __construct(
        public string $file,
        public string $series,
        public int $number,
        public array $position,
        public array $orientation,
        public array $spacing,
        public float $thickness,
        public int $columns,
        public int $rows,
        public int $allocated,
        private int $stored,
        private int $high,
        public bool $isSigned,
        public float $slope,
        public float $intercept,
        public ?Window $window,
        private int $offset,
    ) {
    }

    /** @param  string  $head  the first 1024 bytes */
    public static function isOne(string $head): bool
    {
        return substr($head, 128, 4) === 'DICM';
    }

    /** The transfer syntax a file says it is in; null: it says none. */
    public static function syntax(string $file): ?string
    {
        $in = @fopen($file, 'rb');
        $head = $in === false ? '' : (string) fread($in, 2048);
        if ($in !== false) {
            fclose($in);
        }
        $at = strpos($head, "\x02\x00\x10\x00UI");
        if ($at === false || strlen($head) < $at + 8) {
            return null;
        }

        return rtrim(substr($head, $at + 8, self::short($head, $at + 6)), "\0 ");
    }

    /** Whether its pixels have to be unpacked by another program first. */
    public static function isPacked(string $file): bool
    {
        return ! in_array(self::syntax($file) ?? self::IMPLICIT, [self::IMPLICIT, self::EXPLICIT], true);
    }

    /** @throws RefusedVolume */
    public static function open(string $file): self
    {
        $in = @fopen($file, 'rb');
        if ($in === false || substr((string) fread($in, 132), 128, 4) !== 'DICM') {
            throw RefusedVolume::because('it is no DICOM file');
        }
        try {
            [$said, $offset, $length] = self::walk($in, self::syntax($file) === self::IMPLICIT);
        } finally {
            fclose($in);
        }
        $words = static fn (string $field): string => trim($said[$field] ?? '', " \0");
        $numbers = static function (string $field) use ($words): array {
            $numbers = [];
            foreach (explode('\\', $words($field)) as $number) {
                $numbers[] = is_numeric(trim($number)) && is_finite((float) $number) ? (float) $number : throw RefusedVolume::because("its {$field} is no number");
            }

            return $numbers;
        };
        $short = static fn (string $field, int $default): int => isset($said[$field]) && strlen($said[$field]) >= 2 ? self::short($said[$field], 0) : $default;
        if ($offset === null) {
            throw RefusedVolume::because('it holds no picture');
        }
        if ($short('samples', 1) !== 1 || ! str_starts_with($words('photometric'), 'MONOCHROME')) {
            throw RefusedVolume::because('it is in colour ('.($words('photometric') ?: 'not said').'); volumes are measured in one value a voxel');
        }
        if ($words('frames') !== '' && (int) $words('frames') > 1) {
            throw RefusedVolume::because('it holds '.(int) $words('frames').' pictures in one file; write it as one file a slice first');
        }
        if ($words('position') === '' || $words('orientation') === '' || $words('spacing') === '') {
            throw RefusedVolume::because('it does not say where in space it lies');
        }
        [$position, $orientation, $spacing] = [$numbers('position'), $numbers('orientation'), $numbers('spacing')];
        $allocated = $short('allocated', 16);
        [$rows, $columns] = [$short('rows', 0), $short('columns', 0)];
        if (count($position) !== 3 || count($orientation) !== 6 || count($spacing) !== 2 || min($spacing) <= 0) {
            throw RefusedVolume::because('where it lies in space is said wrongly');
        }
        if (! in_array($allocated, [8, 16], true)) {
            throw RefusedVolume::because("its pixels have {$allocated} bits; 8 and 16 are read");
        }
        $stored = $short('stored', $allocated);
        $high = $short('high', $stored - 1);
        if ($rows < 1 || $columns < 1 || $stored < 1 || $stored > $allocated || $high < $stored - 1 || $high >= $allocated) {
            throw RefusedVolume::because('its header contradicts itself');
        }
        if ($length < $rows * $columns * intdiv($allocated, 8)) {
            throw RefusedVolume::because("it is cut off: {$columns} × {$rows} pixels are said, fewer are there");
        }
        $window = null;
        if ($words('center') !== '' && $words('width') !== '' && $numbers('width')[0] > 0) {
            $window = Window::of('as scanned', $numbers('center')[0], $numbers('width')[0]);
        }
        $slope = $words('slope') === '' ? 1.0 : $numbers('slope')[0];

        return new self($file, $words('series'), (int) $words('number'), $position, $orientation, [$spacing[1], $spacing[0]], $words('thickness') === '' ? 0.0 : $numbers('thickness')[0], $columns, $rows, $allocated, $stored, $high, $short('signed', 0) === 1, $slope === 0.0 ? 1.0 : $slope, $words('intercept') === '' ? 0.0 : $numbers('intercept')[0], $window, $offset);
    }

    /** @return list<int> its pixels as they are stored, row by row */
    public function pixels(): array
    {
        $bytes = (string) file_get_contents($this->file, false, null, $this->offset, max(0, $this->rows * $this->columns * intdiv($this->allocated, 8)));
        if (strlen($bytes) !== $this->rows * $this->columns * intdiv($this->allocated, 8)) {
            throw RefusedVolume::because('it is cut off');
        }
        /** @var array<int, int> $read */
        $read = unpack($this->allocated === 8 ? 'C*' : 'v*', $bytes);
        $shift = $this->high + 1 - $this->stored;
        $mask = (1 << $this->stored) - 1;
        $half = $this->isSigned ? 1 << ($this->stored - 1) : PHP_INT_MAX;
        $range = 1 << $this->stored;
        $pixels = [];
        foreach ($read as $value) {
            // what lies beside the bits that are stored means something else
            $value = ($value >> $shift) & $mask;
            $pixels[] = $value >= $half ? $value - $range : $value;
        }

        return $pixels;
    }

    /** @return array{float, float, float} the direction one goes from slice to slice */
    public function normal(): array
    {
        [$a, $b, $c, $d, $e, $f] = $this->orientation;

        return [$b * $f - $c * $e, $c * $d - $a * $f, $a * $e - $b * $d];
    }

    /** mm along that direction. */
    public function depth(): float
    {
        [$x, $y, $z] = $this->normal();

        return $x * $this->position[0] + $y * $this->position[1] + $z * $this->position[2];
    }

    /**
     * @param  resource  $in  after the mark of a DICOM file
     * @return array{array<string, string>, ?int, int} fields by name, where the pixels begin, and how many bytes they are
     *
     * @throws RefusedVolume
     */
    private static function walk($in, bool $isImplicit): array
    {
        $said = [];
        $depth = 0;
        for ($n = 0; $n < self::MOST_ELEMENTS; $n++) {
            $tag = (string) fread($in, 4);
            if (strlen($tag) < 4) {
                return [$said, null, 0];
            }
            $group = self::short($tag, 0);
            $at = ($group << 16) | self::short($tag, 2);
            if ($group === 0xFFFE) {
                // items of a sequence, and the ends of items and sequences that did not say how long they are
                $length = self::long(self::read($in, 4), 0);
                if ($at === 0xFFFE_E00D || $at === 0xFFFE_E0DD) {
                    $depth = max(0, $depth - 1);
                } elseif ($length === 0xFFFF_FFFF) {
                    $depth++;
                }
                // (items are walked through, so that their ends are found; what they say is not said of the slice)
                if ($at === 0xFFFE_E000 && $length !== 0xFFFF_FFFF) {
                    self::skip($in, $length);
                }

                continue;
            }
            // the group that tells how a file is written is explicit always
            [$length, $isSequence] = $isImplicit && $group !== 2 ? [self::long(self::read($in, 4), 0), false] : self::explicit($in);
            if ($at === 0x7FE0_0010) {
                if ($length === 0xFFFF_FFFF) {
                    throw RefusedVolume::because('its pixels are packed in a way that can not be unpacked here');
                }
                $from = (int) ftell($in);
                $size = fstat($in)['size'] ?? 0;

                return [$said, $from, min($length, $size - $from)];
            }
            if ($length === 0xFFFF_FFFF) {
                $depth++;

                continue;
            }
            if ($isSequence) {
                self::skip($in, $length);

                continue;
            }
            $field = $depth === 0 ? self::FIELDS[$at] ?? null : null;
            if ($field !== null && $length <= self::MOST_VALUE) {
                $said[$field] = self::read($in, $length);
            } else {
                self::skip($in, $length);
            }
        }
        throw RefusedVolume::because('its header does not end');
    }

    /**
     * @param  resource  $in
     * @return array{int, bool} bytes of the value, and whether it is a sequence
     */
    private static function explicit($in): array
    {
        $kind = self::read($in, 2);
        if (in_array($kind, ['OB', 'OW', 'OF', 'OD', 'OL', 'OV', 'SQ', 'UC', 'UN', 'UR', 'UT', 'SV', 'UV'], true)) {
            self::read($in, 2);

            return [self::long(self::read($in, 4), 0), $kind === 'SQ'];
        }
        if (preg_match('/^[A-Z]{2}$/D', $kind) !== 1) {
            throw RefusedVolume::because('its header is damaged');
        }

        return [self::short(self::read($in, 2), 0), false];
    }

    /** @param  resource  $in */
    private static function read($in, int $count): string
    {
        $read = $count === 0 ? '' : (string) fread($in, max(1, $count));

        return strlen($read) === $count ? $read : throw RefusedVolume::because('it is cut off in its header');
    }

    /** @param  resource  $in */
    private static function skip($in, int $count): void
    {
        $size = fstat($in)['size'] ?? 0;
        if ((int) ftell($in) + $count > $size) {
            throw RefusedVolume::because('it is cut off in its header');
        }
        fseek($in, $count, SEEK_CUR);
    }

    private static function short(string $bytes, int $at): int
    {
        return ord($bytes[$at]) | (ord($bytes[$at + 1]) << 8);
    }

    private static function long(string $bytes, int $at): int
    {
        return self::short($bytes, $at) | (self::short($bytes, $at + 2) << 16);
    }
}
