<?php

declare(strict_types=1);

namespace Tests\Feature;

use PDO;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/** An installation as it was before layers and stations were rows: every mark, saying, history entry, decision and state comes along. */
final class MigrationTest extends TestCase
{
    private static PDO $before;

    private static PDO $after;

    public static function setUpBeforeClass(): void
    {
        $folder = sys_get_temp_dir().'/skeno-migration-'.getmypid();
        mkdir($folder);
        register_shutdown_function(static fn () => (new \Illuminate\Filesystem\Filesystem)->deleteDirectory($folder));
        $database = (string) gzdecode((string) file_get_contents(dirname(__DIR__).'/fixtures/installation-1.sqlite.gz'));
        file_put_contents("{$folder}/before.sqlite", $database);
        file_put_contents("{$folder}/skeno.sqlite", $database);
        $migrate = new Process([PHP_BINARY, 'artisan', 'migrate', '--force'], dirname(__DIR__, 2), ['SKENO_DATA' => $folder, 'APP_KEY' => false, 'APP_ENV' => false, 'DB_DATABASE' => false]);
        $migrate->run();
        self::assertSame(0, $migrate->getExitCode(), $migrate->getOutput());
        [self::$before, self::$after] = array_map(static fn (string $file): PDO => new PDO("sqlite:{$folder}/{$file}", null, null, [PDO::ATTR_DEFAULT_FETCH_MODE => PDO::FETCH_ASSOC]), ['before.sqlite', 'skeno.sqlite']);
    }

    /** @return list<array<string, mixed>> */
    private static function was(string $sql): array
    {
        return self::$before->query($sql)->fetchAll();
    }

    /** @return list<array<string, mixed>> */
    private static function is(string $sql): array
    {
        return self::$after->query($sql)->fetchAll();
    }

    public function test_every_mark_is_as_it_was_and_stands_in_its_layer(): void
    {
        $columns = 'id, project_id, item_id, class, kind, geometry, answers, stack, part_of, flags, revision, author_id, source, confidence, deleted_at, created_at, updated_at';
        $marks = self::was("select {$columns} from marks where kind != 'item' order by id");
        self::assertGreaterThan(700, count($marks));
        self::assertSame($marks, self::is("select {$columns} from marks order by id"));
        $layers = array_column(self::was("select id, layer from marks where kind != 'item'"), 'layer', 'id');
        foreach (self::is('select m.id, m.layer, m.item_id, l.name, l.kind, l.item_id as of from marks m join layers l on l.id = m.layer_id') as $mark) {
            self::assertSame([$mark['item_id'], $mark['kind']], [$mark['of'], $mark['layer']]);
            self::assertSame($layers[$mark['id']] === 'suggestions' ? "suggestion/{$this->onlyRun()}" : $layers[$mark['id']], $mark['name']);
            unset($layers[$mark['id']]);
        }
        self::assertSame([], $layers);
    }

    private function onlyRun(): int
    {
        return (int) self::is('select id from runs')[0]['id'];
    }

    public function test_what_was_said_of_items_belongs_to_the_layer(): void
    {
        $said = self::was("select item_id, layer, answers, tags, revision, author_id from marks where kind = 'item' and deleted_at is null order by item_id, layer");
        self::assertGreaterThan(50, count($said));
        $now = array_map(static fn (array $row): array => ['answers' => $row['answers'] === '{}' ? '[]' : $row['answers']] + $row, self::is('select item_id, name as layer, answers, tags, revision, author_id from layers where revision > 0 order by item_id, name'));
        self::assertEquals(array_map(static fn (array $row): array => ['answers' => $row['answers'] === '{}' ? '[]' : $row['answers']] + $row, $said), $now);
        self::assertSame([], self::is("select * from marks where kind = 'item'"));
        self::assertEquals(self::was('select id as item_id, "nothing", mark_count from items order by id'), self::is('select item_id, "nothing", mark_count from layers where name = \'agreed\' order by item_id'));
    }

    public function test_the_history_is_whole(): void
    {
        $columns = 'id, item_id, user_id, action, revision, before, after, created_at';
        $history = self::was("select {$columns} from mark_history order by id");
        self::assertGreaterThan(700, count($history));
        self::assertSame($history, self::is("select {$columns} from mark_history order by id"));
        self::assertSame(self::was("select h.id, case when m.kind = 'item' then null else h.mark_id end as mark_id from mark_history h left join marks m on m.id = h.mark_id order by h.id"), self::is('select id, mark_id from mark_history order by id'));
        self::assertSame([], self::is('select * from mark_history where layer_id is null'));
        self::assertSame(self::was('select id, item_id, user_id, revision, created_at from edits order by id'), self::is('select id, item_id, user_id, revision, created_at from edits order by id'));
    }

    public function test_items_and_labelled_turns_are_in_the_state_they_were_in(): void
    {
        $items = self::was('select id, state, path, archived_at, part, facts from items order by id');
        self::assertSame($items, self::is('select id, state, path, archived_at, part, facts from items order by id'));
        $columns = 'id, item_id, assignment_id, stage, pass, round, state, user_id, last_user_id, leased_until, seconds, submitted_at, decided_at, parked_because';
        self::assertSame(self::was("select {$columns} from turns order by id"), self::is("select {$columns} from turns where stage = 'label' order by id"));
        self::assertSame(self::was('select a.id from turns a where exists (select 1 from turns b where b.item_id = a.item_id and b.assignment_id is a.assignment_id and b.pass = a.pass and b.round > a.round) order by a.id'), self::is("select id from turns where followed = 1 and stage = 'label' order by id"));
    }

    public function test_a_review_is_a_turn_of_its_own_with_what_was_decided_and_pinned(): void
    {
        $submitted = count(self::was("select id from turns where state = 'submitted'"));
        self::assertSame($submitted, count(self::is("select id from turns where stage = 'review' and state in ('waiting', 'open')")));
        $held = self::was("select item_id, reviewer_id, review_leased_until from turns where state = 'submitted' and review_leased_until is not null");
        self::assertCount(1, $held);
        self::assertSame($held, self::is("select item_id, user_id as reviewer_id, leased_until as review_leased_until from turns where stage = 'review' and state = 'open'"));
        $of = 'select d.id, t.item_id, t.round, d.reviewer_id, d.decision, d.reason, d.created_at from decisions d join turns t on t.id = d.turn_id order by d.id';
        self::assertGreaterThan(30, count(self::was($of)));
        self::assertSame(self::was($of), self::is($of));
        self::assertSame([], self::is("select d.id from decisions d join turns t on t.id = d.turn_id where t.stage != 'review' or t.state != case d.decision when 'accept' then 'accepted' else 'returned' end"));
        $pins = 'select p.id, t.item_id, t.round, p.author_id, p.mark_id, p.x, p.y, p.text from pins p join turns t on t.id = p.turn_id order by p.id';
        self::assertSame(self::was($pins), self::is($pins));
    }

    public function test_people_stand_at_the_stations_they_had_a_part_in(): void
    {
        $before = self::was("select a.id as assignment_id, p.user_id, case p.part when 'labeller' then 'label' else 'review' end as stage, case p.part when 'labeller' then a.overlap else 1 end as overlap from assignments a join assignment_people p on p.assignment_id = a.id order by 1, 2, 3");
        self::assertGreaterThan(5, count($before));
        self::assertSame($before, self::is('select s.assignment_id, p.user_id, s.stage, s.overlap from stations s join station_people p on p.station_id = s.id order by 1, 2, 3'));
        self::assertSame([], self::is('select t.id from turns t where t.assignment_id is not null and t.station_id is null'));
        self::assertSame([], self::$after->query('pragma foreign_key_check')->fetchAll());
    }
}
