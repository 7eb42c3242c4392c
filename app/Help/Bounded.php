<?php

declare(strict_types=1);

namespace App\Help;

use GuzzleHttp\Psr7\StreamDecoratorTrait;
use GuzzleHttp\Psr7\Utils;
use Psr\Http\Message\StreamInterface;

/** Takes in so many bytes and no more; from some megabytes on they lie on the disk. Who goes on writing is told that nothing was taken. */
final class Bounded implements StreamInterface
{
    use StreamDecoratorTrait;

    public int $written = 0;

    public bool $overflowed = false;

    private StreamInterface $stream;

    public function __construct(private readonly int $most)
    {
        $this->stream = Utils::streamFor(Utils::tryFopen('php://temp', 'w+b'));
    }

    public function write(string $string): int
    {
        if ($this->written + strlen($string) > $this->most) {
            $this->overflowed = true;

            return 0;
        }
        $this->written += strlen($string);

        return $this->stream->write($string);
    }
}
