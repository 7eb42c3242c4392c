<?php

declare(strict_types=1);

namespace Skeno\Core\Clip;

use Closure;
use Skeno\Core\Programs\Bounded;
use Skeno\Core\Programs\TookTooLong;

/** Runs ffmpeg and ffprobe: each in a process of its own, with limits of time and memory, on local files only. */
final readonly class Program
{
    public function __construct(private ClipLimits $limits)
    {
    }

    /**
     * What opens a file as input: by the one reader its first bytes call for, and no other protocol than files.
     *
     * @return list<string>
     */
    public static function input(string $file, string $demuxer): array
    {
        return ['-protocol_whitelist', 'file', '-f', $demuxer, '-i', "file:{$file}"];
    }

    /**
     * @param  list<string>  $arguments
     * @return array<array-key, mixed> what it says in JSON
     *
     * @throws RefusedClip with what it complains of
     */
    public function probe(array $arguments): array
    {
        $said = '';
        $complaint = $this->run(['ffprobe', '-v', 'error', '-of', 'json', ...$arguments], static function (string $out) use (&$said): void {
            $said .= $out;
        });
        $read = json_decode($said, true);

        return is_array($read) ? $read : throw RefusedClip::because(self::words($complaint) ?? 'it can not be read');
    }

    /**
     * @param  list<string>  $arguments
     * @param  ?Closure(string): void  $out  gets what it writes, as it comes; may throw to stop it
     * @return string what it complained of
     *
     * @throws RefusedClip when it fails, takes too long or wants more memory than it may have
     */
    public function ffmpeg(array $arguments, ?Closure $out = null): string
    {
        return $this->run(['ffmpeg', '-nostdin', '-y', '-v', 'error', '-filter_threads', '1', ...$arguments], $out);
    }

    /**
     * @param  list<string>  $command
     * @param  ?Closure(string): void  $out
     *
     * @throws RefusedClip
     */
    private function run(array $command, ?Closure $out): string
    {
        try {
            $ended = (new Bounded($this->limits->memory, $this->limits->patience))->run($command, $out, ['AV_LOG_FORCE_NOCOLOR' => '1']);
        } catch (TookTooLong) {
            throw RefusedClip::because("decoding it takes longer than {$this->limits->patience} s");
        }
        if ($ended->code !== 0) {
            throw RefusedClip::because(self::words($ended->complaint) ?? ($ended->code > 128 ? 'the decoder broke down over it' : 'it can not be decoded'));
        }

        return $ended->complaint;
    }

    /** What a decoder's complaint means, in words for people; null for none that is known. */
    private static function words(string $complaint): ?string
    {
        return match (true) {
            str_contains($complaint, 'moov atom not found') => 'it is cut off or broken: its index is missing',
            str_contains($complaint, 'Cannot allocate memory') => 'decoding it takes more memory than a clip may have',
            str_contains($complaint, 'Invalid data found') => 'it is broken: what is in it is no clip',
            str_contains($complaint, 'No space left on device') => 'there is no room left on the disk',
            default => null,
        };
    }
}
