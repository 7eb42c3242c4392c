<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Release;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Geometry\Box;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Release\Split;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Workflow\ItemState;

final class ReleaseTest extends TestCase
{
    /** @return array<string, string> */
    private static function hashes(int $count, int $from = 0): array
    {
        $hashes = [];
        for ($i = $from; $i < $from + $count; $i++) {
            $hashes["p{$i}"] = hash('sha256', "picture {$i}");
        }

        return $hashes;
    }

    /**
     * @param  array<string, Part>  $parts
     * @return array<string, int>
     */
    private static function tally(array $parts): array
    {
        return array_count_values(array_map(static fn (Part $part): string => $part->value, $parts)) + ['train' => 0, 'val' => 0, 'test' => 0];
    }

    public function test_shares_are_exact_and_the_seed_decides(): void
    {
        $split = Split::parse('80,10,10', 1);
        $parts = $split->assign(self::hashes(60));
        self::assertEquals(['train' => 48, 'val' => 6, 'test' => 6], self::tally($parts));
        self::assertSame($parts, $split->assign(self::hashes(60)));
        self::assertNotSame($parts, Split::parse('80,10,10', 2)->assign(self::hashes(60)));
        self::assertEquals(['train' => 8, 'val' => 1, 'test' => 1], self::tally($split->assign(self::hashes(10))));
        self::assertEquals(['train' => 2, 'val' => 1, 'test' => 0], self::tally(Split::parse('70,20,10', 1)->assign(self::hashes(3))));
    }

    public function test_names_and_order_do_not_matter(): void
    {
        $split = Split::parse('50,25,25', 4);
        $parts = $split->assign(self::hashes(40));
        self::assertEquals($parts, $split->assign(array_reverse(self::hashes(40), true)));
    }

    public function test_the_same_bytes_stay_on_one_side(): void
    {
        $hashes = self::hashes(20) + array_combine(array_map(static fn (int $i): string => "copy{$i}", range(0, 19)), array_values(self::hashes(20)));
        $parts = Split::parse('60,20,20', 3)->assign($hashes);
        for ($i = 0; $i < 20; $i++) {
            self::assertSame($parts["p{$i}"], $parts["copy{$i}"]);
        }
    }

    public function test_what_was_given_stays_as_the_data_grow(): void
    {
        $split = Split::parse('80,10,10', 1);
        $first = $split->assign(self::hashes(30));
        $given = [];
        foreach (self::hashes(30) as $path => $hash) {
            $given[$hash] = $first[$path];
        }
        $grown = $split->assign(self::hashes(60), $given);
        self::assertSame($first, array_intersect_key($grown, $first));
        self::assertEquals(['train' => 48, 'val' => 6, 'test' => 6], self::tally($grown));
    }

    public function test_impossible_splits_are_refused(): void
    {
        foreach (['80,10', '80,10,20', 'a,b,c', '110,-10,0'] as $text) {
            try {
                Split::parse($text, 1);
                self::fail($text);
            } catch (InvalidValue $e) {
                self::assertStringContainsString('split', $e->field);
            }
        }
    }

    public function test_a_recipe_takes_by_state_set_and_labelled(): void
    {
        $recipe = static fn (array $data): Recipe => Recipe::fromArray($data, Samples::codebook());
        self::assertTrue($recipe([])->takes(ItemState::Accepted, true, 'slope'));
        self::assertFalse($recipe([])->takes(ItemState::Submitted, true, 'slope'));
        self::assertTrue($recipe(['states' => 'any'])->takes(ItemState::Submitted, true, 'slope'));
        self::assertFalse($recipe(['states' => 'any'])->takes(ItemState::New, false, 'slope'));
        self::assertTrue($recipe(['with_unlabelled' => true])->takes(ItemState::New, false, 'slope'));
        self::assertFalse($recipe(['with_unlabelled' => true])->takes(ItemState::Archived, false, 'slope'));
        self::assertFalse($recipe(['sets' => ['north']])->takes(ItemState::Accepted, true, 'slope'));
        self::assertSame(['apple', 'scab'], $recipe(['classes' => ['Leaf scab', 'APPLE']])->classes);
    }

    public function test_a_recipe_with_a_class_that_is_not_there_is_refused(): void
    {
        $this->expectExceptionMessage('recipe.classes[0] is "pear"');
        Recipe::fromArray(['classes' => ['pear']], Samples::codebook());
    }

    public function test_marks_are_stacked_by_class_then_own_place_then_age(): void
    {
        $box = Box::of(0, 0, 5, 5);
        $marks = [Mark::of(Samples::id(1), 'scab', $box), Mark::of(Samples::id(2), 'apple', $box, [], 9), Mark::of(Samples::id(3), 'apple', $box), Mark::of(Samples::id(4), 'blurred', $box)];
        $item = new DatasetItem('a', 9, 9, 'h', Labelled::Objects, $marks);
        $order = static fn (array $recipe): array => array_map(static fn (Mark $mark): string => ltrim(substr($mark->id, 2), '0'), Recipe::fromArray($recipe, Samples::codebook())->prepare($item, Samples::codebook())->marks);
        self::assertSame(['4', '3', '2', '1'], $order([]));
        self::assertSame(['1'], $order(['classes' => ['scab']]));
    }

    public function test_an_edition_is_whole_or_not_there_and_its_bytes_are_stable(): void
    {
        $folder = Samples::temporaryFolder();
        $recipe = Recipe::fromArray(['with_unlabelled' => true], Samples::codebook());
        $write = static fn (string $target): array => Edition::write(Samples::dataset(Samples::items()), $recipe, Samples::codebook(), Format::Coco, true, $target, ['name' => 'Sample', 'number' => 1]);
        self::assertSame(3, $write("{$folder}/one.zip")['compared']['marks']);
        touch(__FILE__, time() + random_int(1, 5));
        $write("{$folder}/two.zip");
        self::assertSame(hash_file('sha256', "{$folder}/one.zip"), hash_file('sha256', "{$folder}/two.zip"));
        $write("{$folder}/open");
        file_put_contents("{$folder}/open/images/north terrace/a.png", 'edited by hand');
        self::assertStringContainsString('final class ReleaseTest', (string) file_get_contents(__FILE__), 'the source is not the same file');
        $sheet = json_decode((new Folder("{$folder}/open"))->read('datasheet.json'), true);
        self::assertSame(['north terrace/b.png'], $sheet['nothing_there']);
        self::assertSame(['slope/c.png'], $sheet['not_labelled']);
        self::assertSame(['objects' => 1, 'nothing' => 1, 'unlabelled' => 1], $sheet['counts']['items']);
        self::assertSame(['one.zip', 'open', 'two.zip'], array_values(array_diff(scandir($folder) ?: [], ['.', '..'])), 'no half-written rest');
    }

    public function test_a_missing_picture_leaves_nothing_behind(): void
    {
        $folder = Samples::temporaryFolder();
        $dataset = new \Skeno\Core\Formats\Dataset('S', Samples::codebook(), static fn (): array => Samples::items(), static fn (): string => '/nowhere/at/all');
        try {
            Edition::write($dataset, Recipe::fromArray([], Samples::codebook()), Samples::codebook(), Format::Yolo, true, "{$folder}/x.zip", []);
            self::fail('it was written');
        } catch (\RuntimeException $e) {
            self::assertStringContainsString('could not be copied', $e->getMessage());
        }
        self::assertSame([], array_diff(scandir($folder) ?: [], ['.', '..']));
    }

    public function test_a_folder_with_something_in_it_is_not_written_into(): void
    {
        $folder = Samples::temporaryFolder();
        touch("{$folder}/mine.txt");
        $this->expectExceptionMessage('is not empty');
        Edition::write(Samples::dataset([]), Recipe::fromArray([], Samples::codebook()), Samples::codebook(), Format::Coco, false, $folder, []);
    }
}
