<?php

declare(strict_types=1);

/** Stops what a part has begun, so that the next is measured alone. */
function bench_stop(): void
{
    foreach ($GLOBALS['bench_pids'] ?? [] as $pid) {
        // the whole group: the server leaves its workers behind otherwise
        @posix_kill(-$pid, SIGKILL);
    }
    $GLOBALS['bench_pids'] = [];
}
register_shutdown_function(bench_stop(...));

/**
 * Web server, with the worker beside it, on the bench's installation, as bin/serve runs them; both end with the bench.
 *
 * @return string the address
 */
function bench_serve(string $folder, int $port, bool $worker = false): string
{
    $php = ['setsid', 'php', '-d', 'memory_limit=512M', '-d', 'post_max_size=16M'];
    $commands = [[...$php, '-S', "127.0.0.1:{$port}", '-t', 'public', 'server.php']];
    if ($worker) {
        $commands[] = [...$php, 'artisan', 'skeno:work'];
    }
    foreach ($commands as $command) {
        $process = proc_open($command, [['file', '/dev/null', 'r'], ['file', '/dev/null', 'w'], ['file', '/dev/null', 'w']], $pipes, dirname(__DIR__), ['PHP_CLI_SERVER_WORKERS' => '4', 'SKENO_DATA' => $folder] + getenv());
        if ($process === false) {
            throw new RuntimeException('could not be started: '.implode(' ', $command));
        }
        $GLOBALS['bench_processes'][] = $process;
        $pid = proc_get_status($process)['pid'];
        $GLOBALS['bench_pids'][] = $pid;
    }
    for ($i = 0; $i < 200 && @fsockopen('127.0.0.1', $port) === false; $i++) {
        usleep(50_000);
    }

    return "http://127.0.0.1:{$port}";
}
