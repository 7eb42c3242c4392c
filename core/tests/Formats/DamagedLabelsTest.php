<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use ErrorException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Faces;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\PointSet;
use Skeno\Core\Geometry\Polygon;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Geometry\Pose;
use Skeno\Core\Geometry\TurnedBox;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Tests\Samples;
use Throwable;

/**
 * Label files as they come from broken disks and clever people: whatever was done to a file, its reader takes what is whole, names what it
 * left out, or refuses the file; it never stumbles, and nothing it takes is beyond what a mark may be.
 */
final class DamagedLabelsTest extends TestCase
{
    private const DAMAGES = 200;

    private Codebook $codebook;

    /** @var list<DatasetItem> */
    private array $items = [];

    /** Values that fit nowhere, put in the place of others. */
    private const STRANGE = ['null', 'true', '-1', '0', '1e400', '-1e400', '99999999999999999999', '0.1', '""', '"1"', '"\u0000"', '"../../../etc/passwd"', '[]', '{}', '[[]]', '[null]', '{"a":{"b":[]}}', '"NaN"', '[1,2]', '[1e308,1e308,1e308,1e308,1e308,1e308]', '"apple"', '2147483648', '-9223372036854775808'];

    /** @return iterable<string, array{Format}> */
    public static function formats(): iterable
    {
        foreach (array_filter(Format::cases(), static fn (Format $format): bool => ! $format->holdsOnlyTracks() && ! $format->holdsOnlyTexts()) as $format) {
            yield $format->value => [$format];
        }
    }

    #[DataProvider('formats')]
    public function test_no_damage_makes_a_reader_stumble(Format $format): void
    {
        [$this->codebook, $this->items] = [Samples::shapes(), self::items()];
        $this->mustNotStumble($format);
    }

    /** @return iterable<string, array{Format}> */
    public static function ofTexts(): iterable
    {
        foreach (array_filter(Format::cases(), static fn (Format $format): bool => $format->holdsTexts()) as $format) {
            yield $format->value => [$format];
        }
    }

    #[DataProvider('ofTexts')]
    public function test_no_damage_makes_a_reader_of_texts_stumble(Format $format): void
    {
        [$this->codebook, $this->items] = [TextFormatsTest::codebook(), TextFormatsTest::items()];
        $this->mustNotStumble($format);
    }

    private function mustNotStumble(Format $format): void
    {
        $random = new Randomizer(new Xoshiro256StarStar(29));
        $whole = new Folder(Samples::temporaryFolder());
        $format->writer($this->codebook)->write(Samples::dataset($this->items, $this->codebook), $whole, false);
        $files = $whole->files();
        $ends = ['taken' => 0, 'left out' => 0, 'refused' => 0];
        for ($i = 0; $i < self::DAMAGES; $i++) {
            // of pictures a few: libpng says on the terminal what it thinks of each
            $among = array_values(array_filter($files, static fn (string $file): bool => $i % 12 === 0 || ! str_ends_with($file, '.png')));
            $name = $among[$random->getInt(0, count($among) - 1)];
            $before = $whole->read($name);
            [$what, $after] = self::damaged($before, $name, $random);
            file_put_contents($whole->file($name), $after);
            try {
                $ends[$this->read($format, $whole, "{$name}, {$what} ({$i})")]++;
            } finally {
                file_put_contents($whole->file($name), $before);
            }
        }
        self::assertSame('taken', $this->read($format, $whole, 'undamaged'));
        self::assertGreaterThan(0, min($ends['taken'], $ends['left out'] + $ends['refused']), json_encode($ends).': hardly anything was damaged');
    }

    /** @return 'taken'|'left out'|'refused' */
    private function read(Format $format, Folder $folder, string $what): string
    {
        $known = new KnownPictures(array_map(static fn (DatasetItem $item, int $i): KnownPicture => new KnownPicture($i, $item->path, $item->width, $item->height, null, $item->text?->length), $this->items, array_keys($this->items)));
        $left = false;
        // a warning is a stumble, too
        set_error_handler(static fn (int $level, string $message, string $file, int $line) => (error_reporting() & $level) === 0 ? false : throw new ErrorException($message, 0, $level, $file, $line));
        try {
            foreach ($format->reader($this->codebook, Samples::ids())->read($folder->root, $known) as $read) {
                if ($read instanceof ReadLabels) {
                    foreach ($read->marks as $mark) {
                        self::assertTrue($this->codebook->class($mark->class) !== null || isset($this->codebook->relations[$mark->class]), $what);
                        MarkCheck::unseen($mark, $read->picture->extent());
                        if (! $mark->geometry instanceof Flat) {
                            continue;
                        }
                        $bounds = $mark->flat()->bounds();
                        foreach ([$bounds->x, $bounds->y, $bounds->right(), $bounds->bottom()] as $edge) {
                            self::assertTrue(is_finite($edge) && abs($edge) <= 2 * Box::LIMIT, $what);
                        }
                    }
                } else {
                    self::assertTrue($read instanceof Skipped || $read instanceof Notice, $what);
                    $left = $left || $read instanceof Skipped;
                    self::assertNotSame('', $read instanceof Skipped ? $read->reason : 'noted', $what);
                }
            }
        } catch (UnreadableLabels $e) {
            self::assertNotSame('', $e->getMessage(), $what);

            return 'refused';
        } catch (\PHPUnit\Framework\AssertionFailedError $e) {
            throw $e;
        } catch (Throwable $e) {
            self::fail("{$what}: ".$e::class." {$e->getMessage()} at ".basename($e->getFile()).":{$e->getLine()}");
        } finally {
            restore_error_handler();
        }

        return $left ? 'left out' : 'taken';
    }

    /** @return array{string, string} what was done, and what came of it */
    private static function damaged(string $bytes, string $name, Randomizer $random): array
    {
        $length = strlen($bytes);
        $at = $random->getInt(0, max(0, $length - 1));
        $more = min($length - $at, $random->getInt(1, 40));

        return match ($random->getInt(0, preg_match('/\.(json|geojson)$/', $name) === 1 ? 9 : 6)) {
            0 => ["cut off at {$at}", substr($bytes, 0, $at)],
            1 => ["a byte changed at {$at}", $length === 0 ? 'x' : substr_replace($bytes, chr($random->getInt(0, 255)), $at, 1)],
            2 => ["{$more} bytes gone at {$at}", substr_replace($bytes, '', $at, $more)],
            3 => ["{$more} bytes twice at {$at}", substr_replace($bytes, substr($bytes, $at, $more), $at, 0)],
            4 => ["strange bytes at {$at}", substr_replace($bytes, $random->getBytes(4), $at, 0)],
            5, 6 => self::number($bytes, $random),
            default => self::node($bytes, $random),
        };
    }

    /** @return array{string, string} */
    private static function number(string $bytes, Randomizer $random): array
    {
        if (preg_match_all('/-?\d+(?:\.\d+)?/', $bytes, $found, PREG_OFFSET_CAPTURE) === 0) {
            return ['nothing', $bytes];
        }
        [$number, $at] = $found[0][$random->getInt(0, count($found[0]) - 1)];
        $other = ['-1', '1e999', '-1e999', '0', '', 'NaN', '99999999999999999999', '-0.0', '1,5', '0x1f', '1e-320'][$random->getInt(0, 10)];

        return ["{$number} at {$at} made {$other}", substr_replace($bytes, $other, $at, strlen($number))];
    }

    /** Something of a JSON document becomes something else. @return array{string, string} */
    private static function node(string $json, Randomizer $random): array
    {
        $document = json_decode($json, true);
        if (! is_array($document)) {
            return ['nothing', $json];
        }
        $at = &$document;
        $path = [];
        // the deeper, the likelier it is that a value itself is meant
        while (is_array($at) && $at !== [] && ($path === [] || $random->getInt(0, 5) > 0)) {
            $keys = array_keys($at);
            $key = $keys[$random->getInt(0, count($keys) - 1)];
            $path[] = $key;
            $at = &$at[$key];
        }
        $strange = self::STRANGE[$random->getInt(0, count(self::STRANGE) - 1)];
        $at = '@@strange@@';

        return [implode('.', $path)." made {$strange}", str_replace('"@@strange@@"', $strange, (string) json_encode($document))];
    }

    /** @return list<DatasetItem> */
    private static function items(): array
    {
        $n = 0;
        $mark = static function (string $class, \Skeno\Core\Geometry\Geometry $geometry, array $answers = []) use (&$n): Mark {
            return Mark::of(Samples::id(++$n), $class, $geometry, $answers);
        };
        $items = [];
        foreach (['slope/a.png', 'slope/b.png', 'wall/c.png'] as $i => $path) {
            $items[] = new DatasetItem($path, 97, 61, str_repeat((string) $i, 64), Labelled::Objects, [
                $mark('apple', Box::of(10.5, 5.25, 20, 30), ['ripeness' => Answer::of('ripe')]),
                $mark('apple', ScanConversion::mask([[40, 10, 60, 12, 55, 40, 42, 38]], 97, 61), ['ripeness' => Answer::of('green')]),
                $mark('scab', Polygon::of([[5, 5, 25, 6, 22, 25, 7, 20], [10, 9, 15, 9, 15, 14]])),
                $mark('branch', Polyline::of([1, 1, 30.5, 20.25, 60, 5])),
                $mark('trunk', TurnedBox::of(48, 30, 40, 12.5, 33.3)),
                $mark('bud', PointSet::of([10.5, 10.5, 20, 20, 90, 50])),
                $mark('moth', Pose::of(['head' => ['x' => 10.5, 'y' => 20.25, 'state' => 'visible'], 'fore_l' => ['x' => 30, 'y' => 40, 'state' => 'hidden']])),
                $mark('crate', Faces::of(Box::of(10, 20, 20, 25), Box::of(30, 5, 18, 20))),
                $mark('blurred', Box::of(70, 40, 12, 12)),
            ]);
        }
        $items[] = new DatasetItem('wall/d.png', 40, 30, str_repeat('d', 64), Labelled::Nothing, []);

        return $items;
    }
}
