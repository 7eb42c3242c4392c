<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use RuntimeException;
use Skeno\Core\Raster\Mask;

/** Writes a label map of a scan, a slice of the sheet after the other, in the memory of a slice. */
final class LabelMap
{
    /** Slices one after the other as they come, for those that go into the file in another order. */
    private const AHEAD = 2 << 20;

    /**
     * @param  string  $file  ending in .nii.gz
     * @param  iterable<int, list<array{int, Mask}>>  $slices  by slice of the sheet, in order: what number its pixels get, later ones over earlier ones; slices left out hold nothing
     * @param  int  $most  the highest number
     * @return int voxels that more than one mask covers
     */
    public static function write(string $file, Scan $scan, iterable $slices, int $most): int
    {
        $scalar = $most > 255 ? Scalar::UInt16 : Scalar::UInt8;
        $laid = $scan->laid;
        [$width, $height, $depth] = $laid->sizes;
        $length = $width * $height * $scalar->bytes();
        // they come from below and are filed from above: put by until all are there
        $store = $laid->turned[2] ? (fopen('php://temp/maxmemory:'.self::AHEAD, 'w+b') ?: throw new RuntimeException('no room to put slices by')) : null;
        $out = @gzopen($file, 'wb4') ?: throw new RuntimeException("\"{$file}\" could not be written");
        $decided = 0;
        try {
            self::put($out, $file, LabelHeader::of($scan, $scalar));
            $empty = str_repeat("\0", $length);
            $code = $scalar === Scalar::UInt8 ? 'C*' : (LabelHeader::isLittle($scan) ? 'v*' : 'n*');
            $next = 0;
            $put = static fn (string $slice) => $store === null ? self::put($out, $file, $slice) : self::store($store, $slice);
            foreach ($slices as $z => $masks) {
                for (; $next < $z; $next++) {
                    $put($empty);
                }
                $next = $z + 1;
                $put($masks === [] ? $empty : self::slice($masks, $width, $height, $laid, $code, $decided));
            }
            for (; $next < $depth; $next++) {
                $put($empty);
            }
            for ($k = 0; $store !== null && $k < $depth; $k++) {
                fseek($store, $laid->slice($k) * $length);
                self::put($out, $file, (string) stream_get_contents($store, $length));
            }
        } finally {
            gzclose($out);
            if ($store !== null) {
                fclose($store);
            }
        }

        return $decided;
    }

    /** @param  list<array{int, Mask}>  $masks */
    private static function slice(array $masks, int $width, int $height, Laid $laid, string $code, int &$decided): string
    {
        $values = array_fill(0, $width * $height, 0);
        foreach ($masks as [$number, $mask]) {
            foreach ($mask->columns() as $x => $runs) {
                for ($i = 0; $i < count($runs); $i += 2) {
                    for ($at = $runs[$i] * $width + $x, $end = $runs[$i + 1] * $width; $at < $end; $at += $width) {
                        if ($values[$at] !== 0) {
                            $decided++;
                        }
                        $values[$at] = $number;
                    }
                }
            }
        }
        $packed = '';
        foreach (array_chunk($laid->isPlain() ? $values : $laid->filed($values), 8192) as $some) {
            $packed .= pack($code, ...$some);
        }

        return $packed;
    }

    /** @param  resource  $out */
    private static function put($out, string $file, string $bytes): void
    {
        if (@gzwrite($out, $bytes) !== strlen($bytes)) {
            throw new RuntimeException("\"{$file}\" could not be written: is the disk full?");
        }
    }

    /** @param  resource  $store */
    private static function store($store, string $bytes): void
    {
        if (@fwrite($store, $bytes) !== strlen($bytes)) {
            throw new RuntimeException('a label map could not be put together: is the disk full?');
        }
    }
}
