<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Workflow;

use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Workflow\SeenGrid;

final class SeenGridTest extends TestCase
{
    public function test_the_shared_vectors(): void
    {
        /** @var array{grids: list<array{width: int, height: int, columns: int, rows: int}>} $vectors */
        $vectors = json_decode((string) file_get_contents(__DIR__.'/../vectors/seen.json'), true);
        foreach ($vectors['grids'] as $case) {
            $grid = SeenGrid::of($case['width'], $case['height']);
            self::assertSame([$case['columns'], $case['rows']], [$grid->columns, $grid->rows]);
            self::assertSame($case['columns'] * $case['rows'], strlen($grid->cells));
            self::assertLessThanOrEqual(33, max($grid->columns, $grid->rows));
        }
    }

    public function test_what_was_seen_stays_seen(): void
    {
        $grid = SeenGrid::of(128, 128);
        self::assertSame(['0000', 0.0, false], [$grid->cells, $grid->share(), $grid->isAll()]);
        $grid = $grid->with('0100')->with('0001');
        self::assertSame(['0101', 0.5, false], [$grid->cells, $grid->share(), $grid->isAll()]);
        self::assertTrue($grid->with('1010')->isAll());
        self::assertSame('0101', $grid->with('0000')->cells);
    }

    #[TestWith(['010'])]
    #[TestWith(['01000'])]
    #[TestWith(['01x0'])]
    #[TestWith([''])]
    public function test_cells_of_another_grid_are_refused(string $cells): void
    {
        $this->expectException(InvalidValue::class);
        SeenGrid::of(128, 128)->with($cells);
    }
}
