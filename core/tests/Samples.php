<?php

declare(strict_types=1);

namespace Skeno\Core\Tests;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Mark;

/** Small made-up values that several tests share. */
final class Samples
{
    /** @return array<string, mixed> */
    public static function document(): array
    {
        return [
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'apple', 'name' => 'Apple', 'color' => '#c2452d', 'marker' => 'circle', 'shortcut' => '1', 'shapes' => ['box'], 'attributes' => ['ripeness', 'damage', 'crack_length', 'shaded'], 'stack' => 20, 'rules' => ['min_size' => 12]],
                ['key' => 'scab', 'name' => 'Leaf scab', 'shortcut' => '2', 'shapes' => ['box', 'polygon'], 'stack' => 30],
                ['key' => 'blurred', 'name' => 'Too blurred', 'shapes' => ['box'], 'ignore' => true],
            ],
            'attributes' => [
                ['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'required' => true, 'no_value' => ['not_visible', 'unsure'], 'options' => [['key' => 'green', 'name' => 'Green'], ['key' => 'ripe', 'name' => 'Ripe']]],
                ['key' => 'damage', 'name' => 'Damage', 'type' => 'many', 'scope' => 'object', 'no_value' => ['none'], 'options' => [['key' => 'bird', 'name' => 'Bird'], ['key' => 'crack', 'name' => 'Crack']]],
                ['key' => 'crack_length', 'name' => 'Crack length', 'type' => 'number', 'scope' => 'object', 'required' => true, 'min' => 0, 'max' => 80, 'step' => 1, 'unit' => 'mm', 'when' => [['attribute' => 'damage', 'any' => ['crack']]]],
                ['key' => 'shaded', 'name' => 'Shaded', 'type' => 'yesno', 'scope' => 'object', 'default' => false],
            ],
        ];
    }

    public static function codebook(): Codebook
    {
        return Codebook::fromArray(self::document());
    }

    /** A codebook in which every shape has a class of its own, and some have several. */
    public static function shapes(): Codebook
    {
        return Codebook::fromArray([
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box', 'ellipse', 'mask'], 'attributes' => ['ripeness']],
                ['key' => 'scab', 'name' => 'Leaf scab', 'shapes' => ['polygon', 'mask'], 'part_of' => ['leaf']],
                ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['polygon']],
                ['key' => 'branch', 'name' => 'Branch', 'shapes' => ['polyline']],
                ['key' => 'trunk', 'name' => 'Trunk', 'shapes' => ['turned_box']],
                ['key' => 'bud', 'name' => 'Bud', 'shapes' => ['points'], 'points' => 3, 'point_names' => ['tip', 'left scale']],
                ['key' => 'moth', 'name' => 'Moth', 'shapes' => ['skeleton'], 'skeleton' => 'moth'],
                ['key' => 'crate', 'name' => 'Crate', 'shapes' => ['cuboid_2d']],
                ['key' => 'blurred', 'name' => 'Too blurred', 'shapes' => ['box', 'polygon'], 'ignore' => true],
            ],
            'attributes' => [
                ['key' => 'ripeness', 'name' => 'Ripeness', 'type' => 'one', 'scope' => 'object', 'no_value' => ['unsure'], 'options' => [['key' => 'green', 'name' => 'Green'], ['key' => 'ripe', 'name' => 'Ripe']]],
                ['key' => 'usable', 'name' => 'Usable picture', 'type' => 'yesno', 'scope' => 'item', 'required' => true],
                ['key' => 'remark', 'name' => 'Remark', 'type' => 'text', 'scope' => 'item', 'when' => [['attribute' => 'usable', 'any' => [false]]]],
            ],
            'tags' => [['key' => 'backlit', 'name' => 'Backlit', 'group' => 'light'], ['key' => 'low_sun', 'name' => 'Low sun', 'group' => 'light'], ['key' => 'wet', 'name' => 'Wet leaves']],
            'skeletons' => [['key' => 'moth', 'name' => 'Moth', 'nodes' => [
                ['key' => 'head', 'name' => 'Head', 'x' => 0.5, 'y' => 0.05],
                ['key' => 'fore_l', 'name' => 'Fore wing, left', 'x' => 0, 'y' => 0.3, 'twin' => 'fore_r'],
                ['key' => 'fore_r', 'name' => 'Fore wing, right', 'x' => 1, 'y' => 0.3, 'twin' => 'fore_l'],
            ], 'edges' => [['head', 'fore_l'], ['head', 'fore_r']]]],
            'limits' => ['tags' => ['max' => 2]],
        ]);
    }

    public static function id(int $n): string
    {
        return sprintf('01%024d', $n);
    }

    /** @return \Closure(): string */
    public static function ids(): \Closure
    {
        $n = 0;

        return static function () use (&$n): string {
            return self::id(++$n);
        };
    }

    public static function apple(int $n, float $x, float $y, float $w, float $h, ?string $ripeness = 'ripe'): Mark
    {
        return Mark::of(self::id($n), 'apple', Box::of($x, $y, $w, $h), $ripeness === null ? [] : ['ripeness' => Answer::of($ripeness)]);
    }

    /** @return list<DatasetItem> one with objects, one with nothing there, one nobody labelled, in byte order of their paths */
    public static function items(?Part $part = null): array
    {
        return [
            new DatasetItem('north terrace/a.png', 40, 30, str_repeat('a', 64), Labelled::Objects, [
                self::apple(1, 1.25, 2.5, 10.1, 8),
                Mark::of(self::id(2), 'scab', Box::of(30.6, 20.4, 9.4, 9.6)),
                Mark::of(self::id(3), 'apple', Box::of(0, 0, 40, 30), ['ripeness' => Answer::none(NoValue::Unsure), 'damage' => Answer::of(['bird', 'crack'])], 5),
            ], $part),
            new DatasetItem('north terrace/b.png', 40, 30, str_repeat('b', 64), Labelled::Nothing, [], $part),
            new DatasetItem('slope/c.png', 20, 10, str_repeat('c', 64), Labelled::Unlabelled, [], $part, 'new'),
        ];
    }

    /** @param  list<DatasetItem>  $items */
    public static function dataset(array $items, ?Codebook $codebook = null): Dataset
    {
        return new Dataset('Sample', $codebook ?? self::codebook(), static fn (): array => $items, static fn (DatasetItem $item): string => __FILE__);
    }

    public static function temporaryFolder(): string
    {
        $folder = sys_get_temp_dir().'/skeno-core-'.bin2hex(random_bytes(6));
        mkdir($folder);
        register_shutdown_function(static fn () => exec('rm -rf '.escapeshellarg($folder)));

        return $folder;
    }
}
