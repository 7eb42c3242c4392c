<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Volume\Laid;
use Skeno\Core\Volume\Nifti;
use Skeno\Core\Volume\VolumeLimits;
use Skeno\Demo\CanopyWalk;
use Skeno\Demo\Chance;
use Skeno\Demo\FruitCt;

final class FruitCtTest extends TestCase
{
    /** @var array<string, array<int, array{size: array{int, int}, counts: string}>> */
    private static array $truth = [];

    /** @var list<list<int|float>> by slice */
    private static array $values = [];

    public static function setUpBeforeClass(): void
    {
        $file = sys_get_temp_dir().'/skeno-ct-'.bin2hex(random_bytes(6)).'.nii.gz';
        try {
            self::$truth = (new FruitCt(new Chance('a test'), true, true))->write($file);
            $scan = Nifti::open($file, new VolumeLimits);
            self::assertSame(FruitCt::SIZES, $scan->grid()->sizes);
            self::assertEqualsWithDelta(FruitCt::grid()->affine, $scan->grid()->affine, 1e-4);
            self::$values = iterator_to_array($scan->slices(), false);
        } finally {
            @unlink($file);
        }
    }

    private static function mask(mixed $data): Mask
    {
        return Mask::fromFields(Fields::of($data), 'mask');
    }

    public function test_what_its_parts_measure_is_what_they_are(): void
    {
        // the scan lies on the sheet as in its file
        self::assertTrue(Laid::of(FruitCt::grid())->isPlain());
        $mean = [];
        foreach (self::$truth as $class => $slices) {
            $all = [];
            foreach ($slices as $z => $data) {
                foreach (self::mask($data)->columns() as $x => $runs) {
                    for ($i = 0; $i < count($runs); $i += 2) {
                        for ($y = $runs[$i]; $y < $runs[$i + 1]; $y++) {
                            $all[] = self::$values[$z][$x + FruitCt::SIZES[0] * $y];
                        }
                    }
                }
            }
            self::assertGreaterThan(60, count($all), $class);
            $mean[$class] = array_sum($all) / count($all);
        }
        self::assertEqualsCanonicalizing(['core', 'bruise', 'tunnel'], array_keys($mean));
        // air is -1000, flesh about -200: a bruise is brighter, a tunnel nearly empty
        self::assertGreaterThan(-120, $mean['bruise']);
        self::assertLessThan(-550, $mean['tunnel']);
        self::assertLessThan(-990, self::$values[0][0]);
    }

    public function test_the_same_seed_makes_the_same_apple(): void
    {
        $folder = sys_get_temp_dir().'/skeno-ct-'.bin2hex(random_bytes(6));
        mkdir($folder);
        try {
            (new FruitCt(new Chance('twice'), false, false))->write("{$folder}/a.nii.gz");
            $truth = (new FruitCt(new Chance('twice'), false, false))->write("{$folder}/b.nii.gz");
            self::assertFileEquals("{$folder}/a.nii.gz", "{$folder}/b.nii.gz");
            self::assertSame(['core'], array_keys($truth));
        } finally {
            array_map(unlink(...), (array) glob("{$folder}/*"));
            rmdir($folder);
        }
    }

    public function test_the_work_done_so_far_keeps_the_rules_of_its_codebook(): void
    {
        $codebook = Codebook::fromJson((string) file_get_contents(CanopyWalk::file('fruit-ct.json')));
        $work = FruitCt::work(['a.nii.gz' => self::$truth, 'b.nii.gz' => self::$truth]);
        self::assertCount(1, $work);
        $marks = $work[0]['marks'];
        self::assertIsArray($marks);
        $check = new MarkCheck($codebook);
        $on = Extent::slices(FruitCt::SIZES[0], FruitCt::SIZES[1], FruitCt::SIZES[2]);
        foreach ($marks as $n => $data) {
            $keys = [Key::of($data['place'], self::mask($data['geometry']))];
            foreach ($data['keys'] as $key) {
                $keys[] = Key::of($key['place'], self::mask($key['geometry']));
            }
            $mark = Mark::along(sprintf('%026d', $n), $data['class'], $keys, Places::fromArray($data['stretches']));
            $check->admit($mark, $on);
            // every fourth slice, and the last
            self::assertLessThanOrEqual(count(self::$truth[$data['class']]) / 4 + 2, count($keys));
        }
    }
}
