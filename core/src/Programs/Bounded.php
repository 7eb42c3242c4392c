<?php

declare(strict_types=1);

namespace Skeno\Core\Programs;

use Closure;
use Symfony\Component\Process\Exception\ProcessTimedOutException;
use Symfony\Component\Process\Process;

/** Runs a program on a file from outside: in a process of its own, with limits of time and memory, and never longer than whoever asked. */
final readonly class Bounded
{
    /** Characters of what a program complains of that are kept. */
    private const COMPLAINT = 4000;

    /**
     * @param  int  $memory  bytes of address space it may have
     * @param  int  $patience  seconds it may run
     */
    public function __construct(private int $memory, private int $patience)
    {
    }

    /**
     * @param  list<string>  $command
     * @param  ?Closure(string): void  $out  gets what it writes, as it comes; may throw to stop it
     * @param  array<string, string>  $environment
     *
     * @throws TookTooLong
     */
    public function run(array $command, ?Closure $out = null, array $environment = []): Ended
    {
        $process = new Process(['prlimit', "--as={$this->memory}", '--core=0', ...$command], null, ['LC_ALL' => 'C'] + $environment, null, $this->patience);
        $process->disableOutput();
        $complaint = '';
        try {
            $code = $process->run(static function (string $kind, string $said) use (&$out, &$complaint): void {
                if ($kind === Process::ERR) {
                    $complaint = substr($complaint.$said, 0, self::COMPLAINT);
                } elseif ($out !== null) {
                    // what is still in the pipe when it is stopped is not for whoever threw
                    [$to, $out] = [$out, null];
                    $to($said);
                    $out = $to;
                }
            });
        } catch (ProcessTimedOutException) {
            throw new TookTooLong("it takes longer than {$this->patience} s");
        } finally {
            // whoever throws on the way leaves no program running
            $process->stop(0);
        }

        return new Ended($code, $complaint);
    }
}
