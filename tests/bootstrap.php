<?php

declare(strict_types=1);

require __DIR__.'/../vendor/autoload.php';

// every run has a state folder of its own, gone afterwards
(static function (): void {
    $folder = sys_get_temp_dir().'/skeno-test-'.getmypid();
    @mkdir($folder, 0o700, true);
    putenv("SKENO_DATA={$folder}");
    $_SERVER['SKENO_DATA'] = $_ENV['SKENO_DATA'] = $folder;
    $pid = getmypid();
    register_shutdown_function(static function () use ($folder, $pid): void {
        if ($pid === getmypid()) {
            exec('rm -rf '.escapeshellarg($folder));
        }
    });
})();
