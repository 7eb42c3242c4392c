<?php

declare(strict_types=1);

namespace Tests\Feature;

use PHPUnit\Framework\TestCase;

/** bin/serve takes down all it started, however often it is told to stop: a worker left behind goes on writing to the data of whoever comes next. */
final class ServeTest extends TestCase
{
    public function test_it_leaves_nothing_behind_when_it_is_told_to_stop_several_times_at_once(): void
    {
        $folder = sys_get_temp_dir().'/skeno-serve-'.getmypid();
        mkdir($folder);
        $log = "{$folder}/log";
        try {
            // the race is short, so a few times
            for ($i = 0; $i < 4; $i++) {
                file_put_contents($log, '');
                $serve = proc_open(['setsid', 'bin/serve'], [['file', '/dev/null', 'r'], ['file', $log, 'w'], ['file', $log, 'a']], $pipes, dirname(__DIR__, 2), ['SKENO_DATA' => "{$folder}/data", 'PORT' => '9187', 'PHP_CLI_SERVER_WORKERS' => '2', 'APP_ENV' => 'production'] + getenv());
                self::assertIsResource($serve);
                for ($wait = 0; $wait < 300 && ! str_contains((string) file_get_contents($log), 'Skeno is at'); $wait++) {
                    usleep(100_000);
                }
                self::assertStringContainsString('Skeno is at', (string) file_get_contents($log));
                self::assertNotSame([], $this->running("{$folder}/data"), 'server and worker run');
                $pid = proc_get_status($serve)['pid'];
                for ($n = 0; $n < 6; $n++) {
                    posix_kill($pid, SIGTERM);
                    usleep($i * 700);
                }
                for ($wait = 0; $wait < 200 && proc_get_status($serve)['running']; $wait++) {
                    usleep(100_000);
                }
                self::assertSame([], $this->running("{$folder}/data"));
                self::assertStringNotContainsString('trap', (string) file_get_contents($log));
            }
        } finally {
            foreach ($this->running("{$folder}/data") as $left) {
                posix_kill($left, SIGKILL);
            }
            exec('rm -rf '.escapeshellarg($folder));
        }
    }

    /** @return list<int> processes of an installation */
    private function running(string $data): array
    {
        $found = [];
        foreach (glob('/proc/[0-9]*/environ') ?: [] as $file) {
            if (str_contains((string) @file_get_contents($file), "SKENO_DATA={$data}\0")) {
                $found[] = (int) basename(dirname($file));
            }
        }

        return $found;
    }
}
