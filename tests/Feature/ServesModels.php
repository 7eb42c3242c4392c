<?php

declare(strict_types=1);

namespace Tests\Feature;

use PHPUnit\Framework\Attributes\After;
use Symfony\Component\Process\Process;

/** Model servers that live as long as a test. */
trait ServesModels
{
    /** @var list<Process> */
    private array $servers = [];

    /** A model server of its own, at a port nobody has. */
    private function serve(string $script): string
    {
        $socket = stream_socket_server('tcp://127.0.0.1:0') ?: throw new \RuntimeException('no port');
        $address = (string) stream_socket_get_name($socket, false);
        fclose($socket);
        $server = new Process([PHP_BINARY, '-S', $address, base_path($script)]);
        $server->start();
        $this->servers[] = $server;
        for ($i = 0; $i < 200 && ! @fsockopen('127.0.0.1', (int) substr($address, 10)); $i++) {
            usleep(25_000);
        }

        return "http://{$address}";
    }

    #[After]
    protected function stopServers(): void
    {
        foreach ($this->servers as $server) {
            $server->stop(1);
        }
    }
}
