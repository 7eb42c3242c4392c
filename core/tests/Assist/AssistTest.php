<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Assist;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Assist\AirCheck;
use Skeno\Core\Assist\Computation;
use Skeno\Core\Assist\Conversion;
use Skeno\Core\Assist\Tightness;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Margin;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Ellipse;
use Skeno\Core\Geometry\Polyline;
use Skeno\Core\Imaging\Plane;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Raster\Mask;
use Skeno\Core\Raster\ScanConversion;
use Skeno\Core\Tests\Raster\Pixels;
use Skeno\Core\Tests\Samples;

final class AssistTest extends TestCase
{
    /** A light disc of radius 30 about 80, 70 on dark ground. */
    private static function disc(): Plane
    {
        $bytes = '';
        for ($y = 0; $y < 140; $y++) {
            for ($x = 0; $x < 160; $x++) {
                $bytes .= chr(hypot($x + 0.5 - 80, $y + 0.5 - 70) < 30 ? 200 : 40);
            }
        }

        return Plane::of(160, 140, $bytes);
    }

    public function test_air_is_measured_side_by_side(): void
    {
        $margin = new Margin(0, 3, false);
        $tight = Tightness::of(self::disc(), Box::of(50, 40, 60, 60), $margin);
        foreach ($tight as $side => $found) {
            self::assertSame('fits', $found['verdict'], $side);
            self::assertEqualsWithDelta(1.0, $found['air'], 2.1, $side);
        }
        $loose = Tightness::of(self::disc(), Box::of(40, 40, 70, 60), $margin);
        self::assertSame(['loose', 'fits', 'fits', 'fits'], array_column($loose, 'verdict'));
        self::assertEqualsWithDelta(11.0, $loose['left']['air'], 2.1);
        $cutting = Tightness::of(self::disc(), Box::of(50, 50, 60, 50), $margin);
        self::assertSame('cuts', $cutting['top']['verdict']);
        self::assertLessThan(-5, $cutting['top']['air']);
        // where nothing stands out nothing is claimed
        $grey = Plane::of(160, 140, str_repeat("\x80", 160 * 140));
        self::assertSame([['air' => null, 'verdict' => 'unclear']], array_values(array_unique(Tightness::of($grey, Box::of(50, 40, 60, 60), $margin), SORT_REGULAR)));
        // the same from a part of the picture
        self::assertSame($loose, Tightness::of(self::disc(), Box::of(1040, 540, 70, 60), $margin, 1000, 500));
    }

    public function test_a_box_with_too_much_air_on_two_sides_is_doubted(): void
    {
        $check = new AirCheck(Codebook::fromArray(['skeno' => 'codebook/1', 'classes' => [
            ['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box', 'ellipse'], 'rules' => ['margin' => ['min' => 0, 'max' => 3, 'unit' => 'px']]],
            ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']],
        ]]));
        $marks = [
            Mark::of(Samples::id(1), 'apple', Box::of(50, 40, 60, 60)),
            // loose on one side: a shadow may be part of it
            Mark::of(Samples::id(2), 'apple', Box::of(40, 40, 70, 60)),
            Mark::of(Samples::id(3), 'apple', Box::of(40, 30, 70, 70)),
            // no rule, and no box
            Mark::of(Samples::id(4), 'leaf', Box::of(40, 30, 70, 70)),
            Mark::of(Samples::id(5), 'apple', Ellipse::of(80, 70, 50, 50, 0)),
        ];
        self::assertSame([true, true, true, false, false], array_map($check->concerns(...), $marks));
        $findings = $check->item($marks, self::disc());
        self::assertSame([[Samples::id(3), 'air', false]], array_map(static fn (Finding $finding): array => [$finding->mark, $finding->code, $finding->stops], $findings));
        self::assertMatchesRegularExpression('/^Apple 3: air of about 1\d(\.\d)? px left, 1\d(\.\d)? px top; the rule allows 3 px$/', $findings[0]->message);
    }

    public function test_margins_in_per_cent_are_of_the_side(): void
    {
        self::assertSame([0.0, 5.0], (new Margin(0, 5, true))->pixels(100));
        self::assertSame([1.0, 3.0], (new Margin(1, 3, false))->pixels(100));
    }

    public function test_masks_become_outlines_and_back(): void
    {
        $mask = ScanConversion::mask(Ellipse::of(40, 40, 25, 15, 20)->rings(), 90, 80);
        $exact = Conversion::outline($mask, 0);
        self::assertEquals($mask, Conversion::fill($exact, 90, 80));
        $coarse = Conversion::outline($mask, 1.5);
        self::assertLessThan($exact->points() / 3, $coarse->points());
        self::assertGreaterThan(0.95, Conversion::fill($coarse, 90, 80)->iou($mask));
        self::assertSame(0, Conversion::changed($mask, $mask));
        self::assertSame(3, Conversion::changed(Pixels::of(['##.', '...']), Pixels::of(['...', '.##'])) - 1);
    }

    public function test_computes_by_name_and_refuses_by_name(): void
    {
        $computation = new Computation(Samples::shapes(), 160, 140, static fn (int $x, int $y, int $width, int $height): Plane => self::disc());
        $mask = Pixels::of(['...', '.#.', '...']);
        $run = static fn (array $in): array => $computation->run(Fields::of($in));
        $filled = $run(['op' => 'fill', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 3, 'height' => 2]]);
        self::assertSame(['mask', 6.0], [$filled['kind'], Mask::fromFields(Fields::of($filled['geometry']))->area()]);
        self::assertSame('fits', $run(['op' => 'tight', 'kind' => 'box', 'class' => 'apple', 'geometry' => ['x' => 50, 'y' => 40, 'width' => 60, 'height' => 60]])['air']['left']['verdict'] ?? null);
        $bad = [
            'op' => ['op' => 'melt', 'kind' => 'box', 'geometry' => ['x' => 1, 'y' => 1, 'width' => 3, 'height' => 2]],
            'kind' => ['op' => 'mend', 'kind' => 'polyline', 'geometry' => Polyline::of([1, 1, 2, 2])->toArray()],
            'geometry.size' => ['op' => 'mend', 'kind' => 'mask', 'n' => 2, 'geometry' => $mask->toArray()],
            'n' => ['op' => 'outline', 'kind' => 'mask', 'n' => 99, 'geometry' => Mask::ofCounts(160, 140, [5, 10, 160 * 140 - 15])->toArray()],
            'geometry' => ['op' => 'fill', 'kind' => 'polyline', 'geometry' => Polyline::of([1, 1, 2, 2])->toArray()],
        ];
        foreach ($bad as $field => $in) {
            try {
                $run($in);
                self::fail("{$field} taken");
            } catch (InvalidValue $e) {
                self::assertSame($field, $e->field);
            }
        }
    }
}
