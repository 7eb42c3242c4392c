<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Workflow;

use DateTimeImmutable;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\Selection;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Turn;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

final class WorkflowTest extends TestCase
{
    private static function now(int $seconds = 0): DateTimeImmutable
    {
        return new DateTimeImmutable('@'.(1_790_000_000 + $seconds));
    }

    public function test_the_usual_way_of_a_turn(): void
    {
        $turn = (new Turn(TurnState::Waiting, null))->open(1, self::now())->submit(1);
        self::assertSame(TurnState::Submitted, $turn->state);
        self::assertSame(TurnState::Open, $turn->takeBack(1, self::now())->state);
        $read = $turn->review(9, false);
        self::assertTrue($read->reviewed);
        self::assertSame(TurnState::Returned, $read->decide(Decision::Return, 9, false)->state);
        self::assertSame(TurnState::Accepted, $read->decide(Decision::Accept, 9, false)->state);
    }

    public function test_without_review_a_submit_is_accepted_and_can_still_be_taken_back(): void
    {
        $turn = (new Turn(TurnState::Waiting, null, needsReview: false))->open(1, self::now())->submit(1);
        self::assertSame(TurnState::Accepted, $turn->state);
        self::assertSame(TurnState::Open, $turn->takeBack(1, self::now())->state);
    }

    public function test_a_lease_runs_out_and_gives_the_item_back(): void
    {
        $turn = (new Turn(TurnState::Waiting, null))->open(1, self::now());
        try {
            $turn->open(2, self::now(Lease::SECONDS - 1));
            self::fail('two people hold one item');
        } catch (IllegalMove $e) {
            self::assertSame('turn_taken', $e->reason);
        }
        self::assertSame(2, $turn->open(2, self::now(Lease::SECONDS))->person);
        self::assertSame(TurnState::Waiting, $turn->giveBack()->state);
        self::assertNull($turn->giveBack()->person);
    }

    /** @return iterable<string, array{string, \Closure(): mixed}> */
    public static function illegal(): iterable
    {
        $submitted = new Turn(TurnState::Submitted, 1);
        yield 'submit of another\'s' => ['turn_taken', static fn () => (new Turn(TurnState::Open, 1))->submit(2)];
        yield 'submit twice' => ['turn_not_open', static fn () => $submitted->submit(1)];
        yield 'take back once opened' => ['review_begun', static fn () => $submitted->review(9, false)->takeBack(1, self::now())];
        yield 'take back another\'s' => ['turn_taken', static fn () => $submitted->takeBack(2, self::now())];
        yield 'take back accepted' => ['turn_not_submitted', static fn () => (new Turn(TurnState::Accepted, 1))->takeBack(1, self::now())];
        yield 'review own work' => ['own_work', static fn () => $submitted->decide(Decision::Accept, 1, false)];
        yield 'decide twice' => ['turn_not_submitted', static fn () => (new Turn(TurnState::Accepted, 1))->decide(Decision::Return, 9, false)];
        yield 'label what is accepted' => ['turn_not_open', static fn () => (new Turn(TurnState::Accepted, 1))->open(1, self::now())];
    }

    /** @param  \Closure(): mixed  $move */
    #[DataProvider('illegal')]
    public function test_illegal_moves_are_refused(string $reason, \Closure $move): void
    {
        try {
            $move();
            self::fail('it was allowed');
        } catch (IllegalMove $e) {
            self::assertSame($reason, $e->reason);
        }
    }

    public function test_own_work_may_be_reviewed_where_the_project_allows_it(): void
    {
        self::assertSame(TurnState::Accepted, (new Turn(TurnState::Submitted, 1))->decide(Decision::Accept, 1, true)->state);
    }

    public function test_an_item_shows_the_least_finished_of_its_last_rounds(): void
    {
        $turn = static fn (int $assignment, int $pass, int $round, TurnState $state, Stage $stage = Stage::Label): TurnKey => new TurnKey($assignment, $stage, $pass, $round, $state);
        self::assertSame(ItemState::New, ItemState::of([]));
        self::assertSame(ItemState::Archived, ItemState::of([], true));
        self::assertSame(ItemState::Accepted, ItemState::of([$turn(1, 1, 1, TurnState::Returned), $turn(1, 1, 2, TurnState::Accepted)]));
        self::assertSame(ItemState::Waiting, ItemState::of([$turn(1, 1, 1, TurnState::Accepted), $turn(2, 1, 1, TurnState::Waiting)]), 'a second assignment over the same item');
        self::assertSame(ItemState::Open, ItemState::of([$turn(1, 1, 1, TurnState::Submitted), $turn(1, 2, 1, TurnState::Open)]), 'two passes: overlap');
        self::assertSame(ItemState::Submitted, ItemState::of([$turn(1, 1, 1, TurnState::Accepted), $turn(1, 1, 1, TurnState::Submitted, Stage::Expert)]), 'an expert stage after the label stage');
    }

    public function test_people_who_overlap_have_layers_of_their_own(): void
    {
        self::assertSame('agreed', TurnKey::layer(1, 7, 1));
        self::assertSame(['blind/7/1', 'blind/7/2'], [TurnKey::layer(2, 7, 1), TurnKey::layer(2, 7, 2)]);
    }

    public function test_selection(): void
    {
        $pool = range(100, 199);
        self::assertSame($pool, Selection::all()->from($pool));
        self::assertSame([100, 101], Selection::first(2)->from($pool));
        $drawn = Selection::random(10, 5)->from($pool);
        self::assertCount(10, array_unique($drawn));
        self::assertSame($drawn, Selection::random(10, 5)->from($pool), 'the seed decides');
        self::assertNotSame($drawn, Selection::random(10, 6)->from($pool));
        $sorted = $drawn;
        sort($sorted);
        self::assertSame($sorted, $drawn, 'in the order of the pool');
        self::assertSame($pool, Selection::random(500, 5)->from($pool));
    }

    /** Every item is drawn about equally often: 2000 draws of 10 out of 100 give each 200 ± 6 standard deviations. */
    public function test_random_selection_is_even(): void
    {
        $times = array_fill(0, 100, 0);
        for ($seed = 0; $seed < 2000; $seed++) {
            foreach (Selection::random(10, $seed)->from(range(0, 99)) as $item) {
                $times[$item]++;
            }
        }
        self::assertGreaterThan(200 - 6 * sqrt(180), min($times));
        self::assertLessThan(200 + 6 * sqrt(180), max($times));
    }
}
