<?php

declare(strict_types=1);

namespace Tests\Feature;

use PDO;
use PHPUnit\Framework\TestCase;
use Symfony\Component\Process\Process;

/** A copy of an installation that runs, and what comes back from it. On installations of their own, since it is about whole folders. */
final class BackupTest extends TestCase
{
    private string $root;

    protected function setUp(): void
    {
        $this->root = sys_get_temp_dir().'/skeno-backup-'.bin2hex(random_bytes(4));
        mkdir($this->root);
    }

    protected function tearDown(): void
    {
        (new \Illuminate\Filesystem\Filesystem)->deleteDirectory($this->root);
    }

    /** @return array{int, string} */
    private function artisan(string $data, string ...$words): array
    {
        $process = new Process([PHP_BINARY, 'artisan', ...$words], dirname(__DIR__, 2), ['SKENO_DATA' => "{$this->root}/{$data}", 'APP_KEY' => false, 'APP_ENV' => false, 'DB_DATABASE' => false]);
        $process->run();

        return [(int) $process->getExitCode(), preg_replace('/\s+/', ' ', $process->getOutput().$process->getErrorOutput())];
    }

    private function rows(string $data): array
    {
        $pdo = new PDO("sqlite:{$this->root}/{$data}/skeno.sqlite");

        return array_map(static fn (string $sql): mixed => $pdo->query($sql)->fetchColumn(), ['select count(*) from items', 'select group_concat(path) from (select path from items order by path)', 'select sum(mark_count) from layers', 'select name from projects']);
    }

    public function test_what_is_backed_up_while_it_runs_comes_back_whole(): void
    {
        mkdir("{$this->root}/pictures");
        foreach (['a', 'b'] as $name) {
            $image = new \Imagick;
            $image->newImage(60, 40, $name === 'a' ? 'red' : 'green');
            $image->writeImage("{$this->root}/pictures/{$name}.png");
        }
        file_put_contents("{$this->root}/codebook.json", (string) json_encode(['skeno' => 'codebook/1', 'classes' => [['key' => 'apple', 'name' => 'Apple', 'shapes' => ['box']]]]));
        file_put_contents("{$this->root}/coco.json", (string) json_encode(['images' => [['id' => 1, 'file_name' => 'a.png']], 'categories' => [['id' => 1, 'name' => 'Apple']], 'annotations' => [['id' => 1, 'image_id' => 1, 'category_id' => 1, 'bbox' => [5, 5, 20, 20]]]]));
        self::assertSame(0, $this->artisan('live', 'migrate', '--force')[0]);
        self::assertSame(0, $this->artisan('live', 'skeno:project', 'Canopy', "--codebook={$this->root}/codebook.json")[0]);
        self::assertSame(0, $this->artisan('live', 'skeno:import', 'Canopy', "{$this->root}/pictures", '--format=coco', "--labels={$this->root}/coco.json")[0]);
        self::assertSame(0, $this->artisan('live', 'skeno:release', 'Canopy', '--format=coco', "--out={$this->root}/out.zip")[0]);

        // somebody is in the middle of writing: the copy is of the last whole state
        $writer = new PDO("sqlite:{$this->root}/live/skeno.sqlite");
        $writer->exec('begin immediate');
        $writer->exec("update projects set name = 'half done'");
        [$code, $said] = $this->artisan('live', 'skeno:backup', "{$this->root}/copy");
        $writer->exec('rollback');
        self::assertSame(0, $code, $said);
        self::assertStringContainsString('held against its source', $said);
        self::assertSame(2, $this->artisan('live', 'skeno:backup', "{$this->root}/copy")[0], 'never into another one');

        [$code, $said] = $this->artisan('new', 'skeno:restore', "{$this->root}/copy");
        self::assertSame(0, $code, $said);
        self::assertSame([2, 'a.png,b.png', 1, 'Canopy'], $this->rows('new'));
        self::assertSame($this->rows('live'), $this->rows('new'));
        self::assertSame(0, $this->artisan('new', 'skeno:release', 'Canopy', '--number=1', '--format=yolo', "--out={$this->root}/again.zip")[0], 'with its pictures and its frozen release');
        self::assertFileEquals("{$this->root}/live/app.key", "{$this->root}/new/app.key");
    }

    public function test_a_damaged_backup_changes_nothing_and_people_are_not_overwritten_by_a_slip(): void
    {
        self::assertSame(0, $this->artisan('live', 'migrate', '--force')[0]);
        self::assertSame(0, $this->artisan('live', 'skeno:backup', "{$this->root}/copy")[0]);
        self::assertSame(0, $this->artisan('used', 'migrate', '--force')[0]);
        $used = new PDO("sqlite:{$this->root}/used/skeno.sqlite");
        $used->exec("insert into users (name, email, password) values ('Ines', 'ines@larkmoor.example', 'x')");
        [$code, $said] = $this->artisan('used', 'skeno:restore', "{$this->root}/copy");
        self::assertSame(2, $code);
        self::assertStringContainsString('--replace', $said);
        file_put_contents("{$this->root}/copy/app.key", 'spoilt');
        [$code, $said] = $this->artisan('used', 'skeno:restore', "{$this->root}/copy", '--replace');
        self::assertSame(2, $code);
        self::assertStringContainsString('app.key of the backup is missing or not as it was written', $said);
        self::assertSame(1, (int) $used->query('select count(*) from users')->fetchColumn());
        self::assertSame(2, $this->artisan('used', 'skeno:restore', $this->root)[0], 'no backup');
    }

    public function test_a_link_for_a_new_password_by_command(): void
    {
        self::assertSame(0, $this->artisan('live', 'migrate', '--force')[0]);
        (new PDO("sqlite:{$this->root}/live/skeno.sqlite"))->exec("insert into users (name, email, password) values ('Ines', 'ines@larkmoor.example', 'x')");
        [$code, $said] = $this->artisan('live', 'skeno:password', 'INES@larkmoor.example');
        self::assertSame(0, $code, $said);
        self::assertMatchesRegularExpression('#For Ines, once, within a day: http://[^ ]+/password/\w{40}#', $said);
        self::assertSame(2, $this->artisan('live', 'skeno:password', 'nobody@larkmoor.example')[0]);
    }
}
