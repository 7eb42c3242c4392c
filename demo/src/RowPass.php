<?php

declare(strict_types=1);

namespace Skeno\Demo;

use GdImage;
use Imagick;
use ImagickDraw;
use ImagickPixel;
use RuntimeException;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Tracks\Thinning;
use Symfony\Component\Process\Process;

/**
 * The demo project "Row pass": what the picking cart sees on its way down a row, as clips with sound. Trunks and bins come nearer and go by, a net
 * comes loose and blows across, a branch swings in front. The world is a few sprites on a plane seen by one camera, so where each is in every
 * frame is known.
 */
final class RowPass
{
    public const WIDTH = 960;

    public const HEIGHT = 540;

    public const RATE = 24;

    public const FRAMES = 240;

    /** The camera: focal length in px, height over the ground in m, row of the horizon. */
    private const FOCAL = 720.0;

    private const EYE = 1.35;

    private const HORIZON = 218.0;

    /** Nothing nearer than this is drawn, nothing farther is told apart, in m. */
    private const NEAR = 1.1;

    private const FAR = 36.0;

    /** Boxes narrower than this are not worth a track, in px. */
    private const LEAST = 14.0;

    /** @var array<string, list<GdImage>> */
    private array $sprites = [];

    private float $speed;

    /** @var list<array{class: string, x: float, z: float, width: float, height: float, sprite: int}> */
    private array $things = [];

    /** @var array{int, int} frames of the gust */
    private array $gust;

    /** @var array{int, int} frames in which the branch is in front */
    private array $branch;

    private float $shake;

    private float $wave;

    public function __construct(private readonly Chance $chance, private readonly int $frames = self::FRAMES)
    {
        $this->speed = $chance->between(1.0, 1.4);
        $this->shake = $chance->between(0.8, 1.6);
        $this->wave = $chance->between(0, 6.28);
        $from = $chance->int(52, 84);
        $this->gust = [$from, $from + $chance->int(88, 112)];
        $begin = $chance->int(168, 180);
        $this->branch = [$begin, $begin + $chance->int(24, 38)];
        for ($row = -1; $row <= 1; $row += 2) {
            for ($z = 2.4 + $chance->between(0, 1.6); $z < self::FAR + 14; $z += 2.9 + $chance->normal(0.12)) {
                $this->things[] = ['class' => 'trunk', 'x' => $row * (2.7 + $chance->normal(0.06)), 'z' => $z, 'width' => $chance->between(0.17, 0.25), 'height' => $chance->between(1.0, 1.25), 'sprite' => $chance->int(0, 2)];
            }
        }
        foreach ([[-1.45, 8.0], [1.5, 12.5], [-1.5, 17.5], [1.45, 26.0]] as [$x, $z]) {
            $this->things[] = ['class' => 'bin', 'x' => $x + $chance->normal(0.1), 'z' => $z + $chance->normal(0.8), 'width' => 1.18, 'height' => 0.76, 'sprite' => $chance->int(0, 1)];
        }
        usort($this->things, static fn (array $a, array $b): int => $b['z'] <=> $a['z']);
    }

    /** @return list<array{path: string, seed: string}> */
    public static function plan(): array
    {
        return [
            ['path' => 'north terrace/row-07.mp4', 'seed' => 'row/7'],
            ['path' => 'north terrace/row-08.mp4', 'seed' => 'row/8'],
            ['path' => 'slope/row-21.mp4', 'seed' => 'row/21'],
        ];
    }

    /**
     * The work done on the clips so far: the first is accepted, the second came back with a pin, the third waits. A labeller puts keys where they are
     * needed, a little off, and a bin's last ones late.
     *
     * @param  array<string, array<string, mixed>>  $truth  by path
     * @return list<array<string, mixed>>
     */
    public static function work(array $truth): array
    {
        $work = [];
        foreach (array_slice(array_keys($truth), 0, 2) as $i => $path) {
            $chance = new Chance("row work {$path}");
            $tracks = is_array($truth[$path]['tracks'] ?? null) ? $truth[$path]['tracks'] : [];
            $marks = [];
            foreach ($tracks as $track) {
                $marks[] = self::labelled(Fields::of($track), $i === 1 ? 4.0 : 1.2, $chance);
            }
            $work[] = [
                'path' => $path, 'labeller' => $i === 0 ? 'Mei Castellan' : 'Ravi Sørby', 'days_ago' => 2 - $i, 'seconds' => 840 + 60 * $i, 'said' => ['answers' => ['surface' => ['value' => 'grass'], 'usable' => ['value' => true]], 'tags' => [], 'stretches' => self::said(Fields::of($truth[$path]), $chance)], 'marks' => $marks,
                'decision' => $i === 0 ? 'accept' : 'return', 'reason' => $i === 0 ? '' : 'the bins leave air all along; tighter, please',
                'pins' => $i === 0 ? [] : [['x' => 480, 'y' => 290, 'place' => 60, 'text' => 'air round this bin']],
            ];
        }

        return $work;
    }

    /** @return list<array<string, mixed>> the wind all along, and when the view was blocked, a few frames off */
    private static function said(Fields $truth, Chance $chance): array
    {
        [$gust, $blocked] = array_map(static fn (string $of): array => array_map(static fn (mixed $frame): int => max(0, min(self::FRAMES - 1, (is_int($frame) ? $frame : 0) + $chance->int(-2, 2))), $truth->list($of)), ['gust', 'blocked']);
        $wind = static fn (string $value, int $first, int $last): array => ['question' => 'wind', 'answer' => ['value' => $value], 'first' => $first, 'last' => $last];

        return [$wind('calm', 0, $gust[0] - 1), $wind('gust', $gust[0], $gust[1]), $wind('calm', $gust[1] + 1, self::FRAMES - 1), ['tag' => 'blocked', 'first' => $blocked[0], 'last' => $blocked[1]]];
    }

    /** @return array<string, mixed> */
    private static function labelled(Fields $track, float $shake, Chance $chance): array
    {
        $kind = Shape::from($track->string('kind'));
        $seen = [];
        foreach ($track->map('frames') as $frame => $numbers) {
            $n = array_map(floatval(...), is_array($numbers) ? array_filter($numbers, is_numeric(...)) : []);
            $seen[(int) $frame] = $kind === Shape::Box ? Box::of($n[0], $n[1], $n[2], $n[3]) : Polygon::of([array_values($n)]);
        }
        ksort($seen);
        $places = $kind === Shape::Box ? Thinning::places($seen, 3.0, 0.03) : array_values(array_filter(array_keys($seen), static fn (int $frame): bool => $frame % 6 === 0 || $frame === array_key_first($seen)));
        $off = static fn (float $value): float => round($value + $chance->normal($shake * 0.5), 1);
        $keys = [];
        foreach ($places as $place) {
            $shape = $seen[$place];
            $geometry = $shape instanceof Box
                ? ['x' => $off($shape->x - $shake), 'y' => $off($shape->y - $shake), 'width' => round($shape->width + 2 * $shake, 1), 'height' => round($shape->height + 2 * $shake, 1)]
                : $shape->toArray();
            $keys[] = ['place' => $place, 'geometry' => self::inside($geometry)];
        }
        $first = (int) array_key_first($seen);
        $last = (int) array_key_last($seen);
        $class = $track->string('class');

        return ['class' => $class, 'kind' => $kind->value, 'geometry' => $keys[0]['geometry'], 'place' => $keys[0]['place'], 'stretches' => [[$first, $last]], 'keys' => array_slice($keys, 1), 'answers' => $class === 'bin' ? ['load' => ['value' => $chance->one(['empty', 'part', 'full'])]] : []];
    }

    /**
     * @param  array<string, mixed>  $geometry
     * @return array<string, mixed> within the picture
     */
    private static function inside(array $geometry): array
    {
        if (! isset($geometry['x'], $geometry['y'], $geometry['width'], $geometry['height']) || ! is_numeric($geometry['x']) || ! is_numeric($geometry['y']) || ! is_numeric($geometry['width']) || ! is_numeric($geometry['height'])) {
            return $geometry;
        }
        $x = max(0.0, (float) $geometry['x']);
        $y = max(0.0, (float) $geometry['y']);

        return ['x' => $x, 'y' => $y, 'width' => round(min(self::WIDTH - $x, (float) $geometry['x'] + (float) $geometry['width'] - $x), 1), 'height' => round(min(self::HEIGHT - $y, (float) $geometry['y'] + (float) $geometry['height'] - $y), 1)];
    }

    /**
     * Draws all frames, adds the sound and writes the clip.
     *
     * @return array<string, mixed> the truth: `{frames, tracks: [{class, kind, frames: {frame: numbers}}], gust: [first, last], blocked: [first, last]}`; of a
     *                              bin or trunk x, y, width, height, of the net the points of its outline
     */
    public function write(string $file): array
    {
        $this->drawSprites();
        $sound = $file.'.wav';
        file_put_contents($sound, $this->sound());
        $ffmpeg = new Process(['ffmpeg', '-nostdin', '-y', '-v', 'error', '-f', 'mjpeg', '-framerate', (string) self::RATE, '-i', "{$file}.raw", '-i', $sound, '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '22', '-pix_fmt', 'yuv420p', '-bf', '2', '-c:a', 'aac', '-b:a', '96k', '-shortest', '-f', 'mp4', '-movflags', '+faststart', $file]);
        $ffmpeg->setTimeout(300);
        $raw = fopen("{$file}.raw", 'w') ?: throw new RuntimeException("{$file}.raw can not be written");
        $truth = $net = [];
        for ($frame = 0; $frame < $this->frames; $frame++) {
            $image = $this->frame($frame, $truth, $net);
            ob_start();
            imagejpeg($image, null, 94);
            fwrite($raw, (string) ob_get_clean());
        }
        fclose($raw);
        try {
            $ffmpeg->mustRun();
        } finally {
            unlink("{$file}.raw");
            unlink($sound);
        }
        $tracks = [];
        foreach ($truth as $i => $frames) {
            if (count($frames) > 12) {
                $tracks[] = ['class' => $this->things[$i]['class'], 'kind' => 'box', 'frames' => $frames];
            }
        }
        $tracks[] = ['class' => 'net', 'kind' => 'polygon', 'frames' => $net];

        return ['frames' => $this->frames, 'tracks' => $tracks, 'gust' => $this->gust, 'blocked' => $this->branch];
    }

    /**
     * @param  array<int, array<int, list<float>>>  $truth  of each thing where it is, by frame
     * @param  array<int, list<float>>  $net
     */
    private function frame(int $frame, array &$truth, array &$net): GdImage
    {
        $image = imagecreatetruecolor(self::WIDTH, self::HEIGHT) ?: throw new RuntimeException('no memory for a frame');
        imagealphablending($image, true);
        $time = $frame / self::RATE;
        $gone = $this->speed * $time;
        $sway = sin($time * 1.7 + $this->wave) * 3 + sin($time * 7.3) * $this->shake * 0.5;
        $bump = sin($time * 9.1 + 1) * $this->shake;
        $this->ground($image, $gone, $sway, $bump);
        $place = static fn (float $x, float $y, float $z): array => [self::WIDTH / 2 + $sway + self::FOCAL * $x / $z, self::HORIZON + $bump + self::FOCAL * (self::EYE - $y) / $z];
        $wind = $this->wind($frame);
        $dark = (int) imagecolorallocatealpha($image, 24, 30, 14, 92);
        foreach ($this->things as $i => $thing) {
            $z = $thing['z'] - $gone;
            if ($z < self::NEAR || $z > self::FAR) {
                continue;
            }
            [$left, $top] = $place($thing['x'] - $thing['width'] / 2, $thing['height'], $z);
            [$right, $bottom] = $place($thing['x'] + $thing['width'] / 2, 0, $z);
            // it stands on its shadow
            imagefilledellipse($image, (int) (($left + $right) / 2 + ($right - $left) * 0.2), (int) $bottom, (int) (($right - $left) * ($thing['class'] === 'bin' ? 1.16 : 3.4)), (int) max(2, self::FOCAL * 0.2 / $z), $dark);
            if ($thing['class'] === 'trunk') {
                // the crown behind its trunk
                [$cl, $ct] = $place($thing['x'] - 1.35 + $wind * 0.06 * sin($time * 3 + $i), 3.5, $z);
                [$cr, $cb] = $place($thing['x'] + 1.35 + $wind * 0.06 * sin($time * 3 + $i), 0.75, $z);
                $this->paste($image, $this->sprites['trunk'][0], $left, $top, $right, $bottom);
                $this->paste($image, $this->sprites['crown'][$thing['sprite']], $cl, $ct, $cr, $cb);
            } else {
                $this->paste($image, $this->sprites['bin'][$thing['sprite']], $left, $top, $right, $bottom);
            }
            $box = self::clipped($left, $top, $right, $bottom);
            if ($box !== null && $right - $left >= self::LEAST) {
                $truth[$i][$frame] = $box;
            }
        }
        $ring = $this->net($frame);
        if ($ring !== null) {
            $this->drawNet($image, $ring, $time);
            $inside = [];
            foreach ($ring as $n => $value) {
                $inside[] = round(max(0.0, min($n % 2 === 0 ? self::WIDTH : self::HEIGHT, $value)), 1);
            }
            $net[$frame] = $inside;
        }
        if ($frame >= $this->branch[0] - 6 && $frame <= $this->branch[1] + 6) {
            $this->drawBranch($image, $frame);
        }

        return $image;
    }

    /** @return ?list<float> a box on the picture that is large enough to be seen: x, y, width, height */
    private static function clipped(float $left, float $top, float $right, float $bottom): ?array
    {
        $x = max(0.0, $left);
        $y = max(0.0, $top);
        $w = min((float) self::WIDTH, $right) - $x;
        $h = min((float) self::HEIGHT, $bottom) - $y;

        return $w > 6 && $h > 6 ? [round($x, 2), round($y, 2), round($w, 2), round($h, 2)] : null;
    }

    /** How hard the wind blows in a frame, 0 to 1. */
    private function wind(int $frame): float
    {
        [$from, $to] = $this->gust;
        $in = min(1.0, max(0.0, ($frame - $from + 12) / 24), max(0.0, ($to + 12 - $frame) / 24));

        return 0.12 + 0.88 * $in;
    }

    /** @return ?list<float> the outline of the net in a frame; null while it hangs where nobody sees it */
    private function net(int $frame): ?array
    {
        [$from, $to] = $this->gust;
        if ($frame < $from || $frame > $to) {
            return null;
        }
        $t = ($frame - $from) / ($to - $from);
        $cx = -90 + 1140 * ($t ** 1.25);
        $cy = 210 - 130 * sin($t * 2.6) + 26 * sin($t * 17 + $this->wave);
        $w = 120 + 50 * sin($t * 5 + 1);
        $h = 78 + 34 * sin($t * 8.5);
        $ring = [];
        for ($n = 0; $n < 18; $n++) {
            $a = 2 * M_PI * $n / 18;
            $flap = 1 + 0.2 * sin(3 * $a + $t * 40) + 0.1 * sin(5 * $a - $t * 27);
            $ring[] = $cx + $w * cos($a) * $flap + 20 * sin($t * 30 + $a);
            $ring[] = $cy + $h * sin($a) * $flap;
        }

        return $ring;
    }

    /** @param  list<float>  $ring */
    private function drawNet(GdImage $image, array $ring, float $time): void
    {
        imagefilledpolygon($image, array_map(static fn (float $v): int => (int) round($v), $ring), (int) imagecolorallocatealpha($image, 236, 240, 232, 62));
        $line = (int) imagecolorallocatealpha($image, 248, 250, 244, 56);
        imagesetthickness($image, 1);
        $n = intdiv(count($ring), 2);
        for ($i = 1; $i < $n / 2; $i++) {
            [$a, $b] = [$i, $n - $i];
            imageline($image, (int) $ring[2 * $a], (int) $ring[2 * $a + 1], (int) $ring[2 * $b], (int) $ring[2 * $b + 1], $line);
            [$a, $b] = [($i + intdiv($n, 4)) % $n, ($n - $i + intdiv($n, 4)) % $n];
            imageline($image, (int) $ring[2 * $a], (int) $ring[2 * $a + 1], (int) $ring[2 * $b], (int) $ring[2 * $b + 1], $line);
        }
        imagesetthickness($image, 2);
        imagepolygon($image, array_map(static fn (float $v): int => (int) round($v), $ring), (int) imagecolorallocatealpha($image, 255, 255, 250, 34));
        imagesetthickness($image, 1);
    }

    private function drawBranch(GdImage $image, int $frame): void
    {
        [$from, $to] = $this->branch;
        $t = max(0.0, min(1.0, ($frame - $from + 6) / ($to - $from + 12)));
        $swing = sin($t * M_PI);
        $sprite = $this->sprites['branch'][0];
        $x = -1180 + 1040 * $swing;
        $this->paste($image, $sprite, $x, -210 + 90 * $swing, $x + imagesx($sprite) * 1.5, -210 + 90 * $swing + imagesy($sprite) * 1.5);
    }

    private function ground(GdImage $image, float $gone, float $sway, float $bump): void
    {
        $horizon = (int) round(self::HORIZON + $bump);
        for ($y = 0; $y < $horizon; $y++) {
            $t = $y / max(1, $horizon);
            imageline($image, 0, $y, self::WIDTH, $y, self::color($image, (int) (150 + 74 * $t), (int) (186 + 36 * $t), (int) (214 + 12 * $t)));
        }
        for ($y = $horizon; $y < self::HEIGHT; $y++) {
            $z = self::FOCAL * self::EYE / max(1.0, $y - $horizon + 0.5);
            $band = (sin(($z + $gone) * 4.1) + sin(($z + $gone) * 1.7 + 1)) * 5 * min(1.0, 12 / $z);
            $haze = min(1.0, $z / 50);
            imageline($image, 0, $y, self::WIDTH, $y, self::color($image, (int) (96 + 76 * $haze + $band), (int) (112 + 74 * $haze + $band), (int) (62 + 96 * $haze + $band / 2)));
            // two ruts of the wheels
            foreach ([-0.62, 0.62] as $x) {
                $px = (int) round(self::WIDTH / 2 + $sway + self::FOCAL * $x / $z);
                $half = max(1, (int) round(self::FOCAL * 0.11 / $z));
                imageline($image, $px - $half, $y, $px + $half, $y, self::color($image, (int) (112 + 60 * $haze + $band), (int) (96 + 80 * $haze + $band), (int) (72 + 90 * $haze)));
            }
        }
    }

    /** A colour by its parts, cut to what there is. */
    private static function color(GdImage $image, int $red, int $green, int $blue): int
    {
        return (int) imagecolorallocate($image, max(0, min(255, $red)), max(0, min(255, $green)), max(0, min(255, $blue)));
    }

    private function paste(GdImage $image, GdImage $sprite, float $left, float $top, float $right, float $bottom): void
    {
        [$x, $y, $w, $h] = [(int) round($left), (int) round($top), max(1, (int) round($right - $left)), max(1, (int) round($bottom - $top))];
        if ($x > self::WIDTH || $y > self::HEIGHT || $x + $w < 0 || $y + $h < 0) {
            return;
        }
        // only what is on the picture: of a tree that is near most lies beside it
        [$sw, $sh] = [imagesx($sprite), imagesy($sprite)];
        [$cl, $ct, $cr, $cb] = [max(0, -$x), max(0, -$y), max(0, $x + $w - self::WIDTH), max(0, $y + $h - self::HEIGHT)];
        [$vw, $vh] = [$w - $cl - $cr, $h - $ct - $cb];
        if ($vw < 1 || $vh < 1) {
            return;
        }
        imagecopyresized($image, $sprite, $x + $cl, $y + $ct, (int) ($cl * $sw / $w), (int) ($ct * $sh / $h), $vw, $vh, max(1, (int) ($vw * $sw / $w)), max(1, (int) ($vh * $sh / $h)));
    }

    private function drawSprites(): void
    {
        foreach (['trunk' => 1, 'crown' => 3, 'bin' => 2, 'branch' => 1] as $what => $count) {
            for ($i = 0; $i < $count; $i++) {
                $drawn = match ($what) {
                    'trunk' => $this->trunk(),
                    'crown' => $this->crown(),
                    'bin' => $this->bin(),
                    default => $this->branchSprite(),
                };
                $drawn->setImageFormat('png');
                $sprite = imagecreatefromstring($drawn->getImageBlob()) ?: throw new RuntimeException("the {$what} could not be drawn");
                imagealphablending($sprite, false);
                imagesavealpha($sprite, true);
                $this->sprites[$what][] = $sprite;
                $drawn->clear();
            }
        }
    }

    private static function blank(int $width, int $height): Imagick
    {
        $image = new Imagick;
        $image->newImage($width, $height, new ImagickPixel('transparent'), 'png');

        return $image;
    }

    private function trunk(): Imagick
    {
        $image = self::blank(90, 420);
        $draw = new ImagickDraw;
        $draw->setFillColor('rgb(92,74,58)');
        $draw->polygon([['x' => 22, 'y' => 0], ['x' => 68, 'y' => 0], ['x' => 74, 'y' => 300], ['x' => 90, 'y' => 420], ['x' => 0, 'y' => 420], ['x' => 14, 'y' => 300]]);
        for ($i = 0; $i < 90; $i++) {
            $x = $this->chance->between(16, 74);
            $y = $this->chance->between(0, 410);
            $draw->setFillColor($this->chance->yes(0.5) ? 'rgba(58,46,36,0.55)' : 'rgba(138,116,92,0.5)');
            $draw->ellipse($x, $y, $this->chance->between(1, 4), $this->chance->between(8, 26), 0, 360);
        }
        $draw->setFillColor('rgba(20,16,12,0.32)');
        $draw->polygon([['x' => 54, 'y' => 0], ['x' => 68, 'y' => 0], ['x' => 90, 'y' => 420], ['x' => 60, 'y' => 420]]);
        $image->drawImage($draw);

        return $image;
    }

    private function crown(): Imagick
    {
        $image = self::blank(420, 420);
        $draw = new ImagickDraw;
        foreach ([[0.55, 900], [0.8, 700], [1.06, 500]] as [$light, $leaves]) {
            for ($i = 0; $i < $leaves; $i++) {
                $a = $this->chance->between(0, 6.283);
                $r = sqrt($this->chance->between(0, 1)) * 182;
                $tone = $light * $this->chance->between(0.8, 1.2);
                $draw->setFillColor(sprintf('rgba(%d,%d,%d,0.95)', min(255, (int) (74 * $tone)), min(255, (int) (116 * $tone)), min(255, (int) (52 * $tone))));
                $x = 210 + $r * cos($a);
                $y = 205 + $r * 0.98 * sin($a) - ($light - 0.55) * 26;
                $draw->ellipse($x, $y, $this->chance->between(4, 13), $this->chance->between(4, 9), 0, 360);
            }
        }
        for ($i = 0; $i < 26; $i++) {
            $a = $this->chance->between(0, 6.283);
            $r = sqrt($this->chance->between(0, 1)) * 160;
            $draw->setFillColor($this->chance->yes(0.7) ? 'rgb(186,52,40)' : 'rgb(178,164,60)');
            $draw->circle(210 + $r * cos($a), 215 + $r * sin($a), 210 + $r * cos($a) + 7, 215 + $r * sin($a));
        }
        $image->drawImage($draw);

        return $image;
    }

    private function bin(): Imagick
    {
        $image = self::blank(360, 232);
        $draw = new ImagickDraw;
        $draw->setFillColor('rgb(84,62,40)');
        $draw->rectangle(0, 40, 360, 232);
        // what is in it
        $full = $this->chance->yes(0.6);
        for ($i = 0; $full && $i < 70; $i++) {
            $draw->setFillColor(sprintf('rgb(%d,%d,%d)', $this->chance->int(150, 204), $this->chance->int(38, 84), $this->chance->int(34, 58)));
            $x = $this->chance->between(14, 346);
            $y = $this->chance->between(12, 54);
            $draw->circle($x, $y, $x + 14, $y);
        }
        for ($board = 0; $board < 5; $board++) {
            $tone = $this->chance->int(-12, 14);
            $draw->setFillColor(sprintf('rgb(%d,%d,%d)', 168 + $tone, 132 + $tone, 88 + $tone));
            $top = 50 + $board * 36;
            $draw->rectangle(4, $top, 356, $top + 31);
            $draw->setStrokeColor('rgba(90,66,42,0.5)');
            for ($i = 0; $i < 4; $i++) {
                $y = $top + $this->chance->between(4, 28);
                $draw->line(6, $y, 354, $y + $this->chance->normal(2));
            }
            $draw->setStrokeColor('none');
        }
        $draw->setFillColor('rgb(140,106,68)');
        foreach ([4, 166, 328] as $x) {
            $draw->rectangle($x, 44, $x + 28, 232);
        }
        $image->drawImage($draw);

        return $image;
    }

    private function branchSprite(): Imagick
    {
        $image = self::blank(760, 520);
        $draw = new ImagickDraw;
        $draw->setStrokeColor('rgb(48,38,30)');
        $draw->setStrokeWidth(22);
        $draw->setFillColor('none');
        $draw->bezier([['x' => 0, 'y' => 150], ['x' => 220, 'y' => 170], ['x' => 400, 'y' => 280], ['x' => 560, 'y' => 310]]);
        $draw->setStrokeColor('none');
        for ($i = 0; $i < 420; $i++) {
            $t = $this->chance->between(0, 1);
            $x = 560 * $t + max(-90, min(90, $this->chance->normal(46)));
            $y = 150 + 160 * $t + max(-100, min(100, $this->chance->normal(70)));
            $tone = $this->chance->between(0.5, 1.1);
            $draw->setFillColor(sprintf('rgba(%d,%d,%d,0.96)', (int) (66 * $tone), (int) (98 * $tone), (int) (48 * $tone)));
            $draw->ellipse($x, $y, $this->chance->between(16, 40), $this->chance->between(12, 26), 0, 360);
        }
        $image->drawImage($draw);
        // it is too near to be sharp
        $image->blurImage(0, 6);

        return $image;
    }

    /** Motor and wind, a WAV of 16 bit mono. */
    private function sound(): string
    {
        $rate = 16_000;
        $count = intdiv($this->frames * $rate, self::RATE);
        $samples = '';
        $slow = $low = 0.0;
        $phase = 0.0;
        for ($i = 0; $i < $count; $i++) {
            $t = $i / $rate;
            $phase += (74 + 5 * sin($t * 1.3)) / $rate;
            $motor = sin(6.283 * $phase) * 0.4 + sin(12.566 * $phase + 0.4) * 0.22 + sin(18.85 * $phase) * 0.12;
            $noise = $this->chance->int(-1000, 1000) / 1000;
            $slow += ($noise - $slow) * 0.05;
            $low += ($slow - $low) * 0.2;
            $wind = $low * 3.2 * $this->wind((int) ($t * self::RATE)) * (0.8 + 0.2 * sin($t * 5));
            $samples .= pack('v', (int) max(-32_000, min(32_000, ($motor * 0.22 + $wind) * 14_000)) & 0xFFFF);
        }

        return pack('A4VA4A4VvvVVvvA4V', 'RIFF', 36 + strlen($samples), 'WAVE', 'fmt ', 16, 1, 1, $rate, 2 * $rate, 2, 16, 'data', strlen($samples)).$samples;
    }
}
