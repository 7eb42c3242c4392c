<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Workflow;

use DateTimeImmutable;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\IllegalMove;
use Skeno\Core\Workflow\ItemState;
use Skeno\Core\Workflow\Lease;
use Skeno\Core\Workflow\Route;
use Skeno\Core\Workflow\Selection;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\Station;
use Skeno\Core\Workflow\Turn;
use Skeno\Core\Workflow\TurnKey;
use Skeno\Core\Workflow\TurnState;

final class WorkflowTest extends TestCase
{
    private static function now(int $seconds = 0): DateTimeImmutable
    {
        return new DateTimeImmutable('@'.(1_790_000_000 + $seconds));
    }

    private static function label(TurnState $state = TurnState::Waiting, ?int $person = null): Turn
    {
        return new Turn(Stage::Label, $state, $person);
    }

    private static function review(TurnState $state = TurnState::Waiting, ?int $person = null): Turn
    {
        return new Turn(Stage::Review, $state, $person);
    }

    public function test_the_usual_way_of_labelled_work_and_of_the_decision_on_it(): void
    {
        $turn = self::label()->open(1, self::now())->submit(1, true);
        self::assertSame(TurnState::Submitted, $turn->state);
        self::assertSame(TurnState::Open, $turn->takeBack(1, self::now(), false)->state);
        $review = self::review()->open(9, self::now());
        self::assertSame([TurnState::Returned, 9], [$review->decide(Decision::Return, 9)->state, $review->decide(Decision::Return, 9)->person]);
        self::assertSame([TurnState::Returned, 1], [$turn->settle(Decision::Return)->state, $turn->settle(Decision::Return)->person]);
        $accepted = $review->decide(Decision::Accept, 9);
        self::assertSame(TurnState::Accepted, $turn->settle(Decision::Accept)->state);
        self::assertSame([TurnState::Open, 5], [$accepted->retract(5, self::now())->state, $accepted->retract(5, self::now())->person], 'an accept is taken back, here by a manager');
        self::assertSame(TurnState::Submitted, $turn->settle(Decision::Accept)->reopen()->state);
    }

    public function test_without_a_station_that_decides_a_submit_is_accepted_and_can_still_be_taken_back(): void
    {
        $turn = self::label()->open(1, self::now())->submit(1, false);
        self::assertSame(TurnState::Accepted, $turn->state);
        self::assertSame(TurnState::Open, $turn->takeBack(1, self::now(), false)->state);
    }

    public function test_a_lease_runs_out_and_gives_the_item_back(): void
    {
        foreach ([self::label(), self::review()] as $waiting) {
            $turn = $waiting->open(1, self::now());
            try {
                $turn->open(2, self::now(Lease::SECONDS - 1));
                self::fail('two people hold one item');
            } catch (IllegalMove $e) {
                self::assertSame('turn_taken', $e->reason);
            }
            self::assertSame(2, $turn->open(2, self::now(Lease::SECONDS))->person);
            self::assertSame([TurnState::Waiting, null], [$turn->giveBack()->state, $turn->giveBack()->person]);
            self::assertSame([TurnState::Waiting, 3, null], [$turn->pass(3)->state, $turn->pass(3)->person, $turn->pass(3)->lease], 'a manager gives it to somebody');
        }
        self::assertSame([TurnState::Returned, 3], [self::label(TurnState::Returned, 1)->pass(3)->state, self::label(TurnState::Returned, 1)->pass(3)->person]);
    }

    /** @return iterable<string, array{string, \Closure(): mixed}> */
    public static function illegal(): iterable
    {
        $submitted = self::label(TurnState::Submitted, 1);
        yield 'submit of another\'s' => ['turn_taken', static fn () => self::label(TurnState::Open, 1)->submit(2, true)];
        yield 'submit twice' => ['turn_not_open', static fn () => $submitted->submit(1, true)];
        yield 'submit a decision' => ['not_labelling', static fn () => self::review(TurnState::Open, 1)->submit(1, true)];
        yield 'take back once opened' => ['review_begun', static fn () => $submitted->takeBack(1, self::now(), true)];
        yield 'take back another\'s' => ['turn_taken', static fn () => $submitted->takeBack(2, self::now(), false)];
        yield 'take back what is open' => ['turn_not_submitted', static fn () => self::label(TurnState::Open, 1)->takeBack(1, self::now(), false)];
        yield 'decide on own work' => ['own_work', static fn () => $submitted->mayBeDecidedBy(1, false)];
        yield 'decide twice' => ['turn_not_open', static fn () => self::review(TurnState::Accepted, 9)->decide(Decision::Return, 9)];
        yield 'decide what another has open' => ['turn_taken', static fn () => self::review(TurnState::Open, 8)->decide(Decision::Accept, 9)];
        yield 'decide where it is labelled' => ['turn_not_submitted', static fn () => self::label(TurnState::Open, 9)->decide(Decision::Accept, 9)];
        yield 'settle what is open' => ['turn_not_submitted', static fn () => self::label(TurnState::Open, 1)->settle(Decision::Accept)];
        yield 'label what is accepted' => ['turn_not_open', static fn () => self::label(TurnState::Accepted, 1)->open(1, self::now())];
        yield 'take back a return' => ['turn_not_accepted', static fn () => self::review(TurnState::Returned, 9)->retract(9, self::now())];
        yield 'reopen what is submitted' => ['turn_not_accepted', static fn () => $submitted->reopen()];
        yield 'pass on what is submitted' => ['turn_not_open', static fn () => $submitted->pass(2)];
        yield 'park another\'s' => ['turn_taken', static fn () => self::label(TurnState::Open, 1)->park(2)];
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
        $submitted = self::label(TurnState::Submitted, 1);
        self::assertSame($submitted, $submitted->mayBeDecidedBy(1, true));
        self::assertSame($submitted, $submitted->mayBeDecidedBy(2, false));
    }

    public function test_an_item_shows_the_least_finished_of_its_last_rounds(): void
    {
        $turn = static fn (int $assignment, int $pass, int $round, TurnState $state, Stage $stage = Stage::Label, bool $beside = false): TurnKey => new TurnKey($assignment, $stage, $pass, $round, $state, $beside);
        self::assertSame(ItemState::New, ItemState::of([]));
        self::assertSame(ItemState::Archived, ItemState::of([], true));
        self::assertSame(ItemState::Accepted, ItemState::of([$turn(1, 1, 1, TurnState::Returned), $turn(1, 1, 2, TurnState::Accepted)]));
        self::assertSame(ItemState::Waiting, ItemState::of([$turn(1, 1, 1, TurnState::Accepted), $turn(2, 1, 1, TurnState::Waiting)]), 'a second assignment over the same item');
        self::assertSame(ItemState::Open, ItemState::of([$turn(1, 1, 1, TurnState::Submitted), $turn(1, 2, 1, TurnState::Open)]), 'two passes: overlap');
        self::assertSame(ItemState::Submitted, ItemState::of([$turn(1, 1, 1, TurnState::Submitted), $turn(1, 1, 1, TurnState::Accepted, Stage::Review), $turn(1, 1, 1, TurnState::Waiting, Stage::Expert)]), 'a decision shows on the work it is about');
        self::assertSame(ItemState::Accepted, ItemState::of([$turn(1, 1, 1, TurnState::Accepted), $turn(2, 1, 1, TurnState::Open, beside: true)]), 'a pass beside accepted labels');
    }

    public function test_a_route_leads_from_station_to_station(): void
    {
        $route = Route::of([Station::of(Stage::Label), Station::of(Stage::Review), Station::of(Stage::Expert)]);
        self::assertSame([1, 2, null], [$route->next(Stage::Label, 7, 'a'), $route->next(Stage::Review, 7, 'a'), $route->next(Stage::Expert, 7, 'a')]);
        self::assertNull(Route::of([Station::of(Stage::Model), Station::of(Stage::Label)])->next(Stage::Label, 7, 'a'));
        $overlapped = Route::of([Station::of(Stage::Label, overlap: 3), Station::of(Stage::Review, 0.01)]);
        foreach (range(1, 50) as $item) {
            self::assertSame(1, $overlapped->next(Stage::Label, $item, 'a'), 'what several have labelled is always resolved');
        }
    }

    /** A share takes its part of the items, the same ones every time: 4,000 items at 0.3 give 1,200 ± 6 standard deviations (29). */
    public function test_a_share_of_the_items_is_reviewed(): void
    {
        $route = Route::of([Station::of(Stage::Label), Station::of(Stage::Review, 0.3), Station::of(Stage::Expert)]);
        $taken = static fn (string $salt): array => array_values(array_filter(range(1, 4000), static fn (int $item): bool => $route->next(Stage::Label, $item, $salt) === 1));
        self::assertEqualsWithDelta(1200, count($taken('1')), 6 * 29);
        self::assertSame($taken('1'), $taken('1'));
        self::assertEqualsWithDelta(360, count(array_intersect($taken('1'), $taken('2'))), 6 * 18, 'independent of other assignments');
        $passed = array_diff(range(1, 4000), $taken('1'));
        self::assertSame(2, $route->next(Stage::Label, (int) reset($passed), '1'), 'who is not reviewed goes on to the expert');
    }

    /** @return iterable<string, array{list<Station>}> */
    public static function noRoutes(): iterable
    {
        yield 'nothing' => [[]];
        yield 'nobody labels' => [[Station::of(Stage::Review)]];
        yield 'review before label' => [[Station::of(Stage::Review), Station::of(Stage::Label)]];
        yield 'twice' => [[Station::of(Stage::Label), Station::of(Stage::Label)]];
        yield 'overlap that nobody resolves' => [[Station::of(Stage::Label, overlap: 2)]];
    }

    /** @param  list<Station>  $stations */
    #[DataProvider('noRoutes')]
    public function test_what_is_no_route(array $stations): void
    {
        $this->expectException(InvalidValue::class);
        Route::of($stations);
    }

    public function test_stations_are_valid(): void
    {
        foreach ([static fn () => Station::of(Stage::Review, 0.0), static fn () => Station::of(Stage::Review, 1.1), static fn () => Station::of(Stage::Label, 0.5), static fn () => Station::of(Stage::Label, 1.0, 0), static fn () => Station::of(Stage::Review, 1.0, 2), static fn () => Station::of(Stage::Label, NAN)] as $i => $make) {
            try {
                $make();
                self::fail("case {$i} was taken");
            } catch (InvalidValue $e) {
                self::assertContains($e->field, ['share', 'overlap']);
            }
        }
    }

    public function test_layers_have_names_of_their_own(): void
    {
        self::assertSame(['agreed', 'blind/7/2', 'draft/7/1', 'suggestion/3'], [LayerKind::Agreed->name(), LayerKind::Blind->name(7, 2), LayerKind::Draft->name(7, 1), LayerKind::Suggestion->name(3)]);
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
