<?php

declare(strict_types=1);

namespace Skeno\Core\Text;

use Symfony\Component\Process\Process;

/**
 * Turns the bytes of a text file into UTF-8. A byte order mark says what they are; without one they are UTF-8 when they can be, UTF-16 when every
 * other byte is empty, and else what uchardet tells from how often which letters stand beside each other.
 */
final readonly class Decoding
{
    /** Bytes that are looked at to tell an encoding. */
    private const LOOKED_AT = 262_144;

    private const MARKS = ["\xEF\xBB\xBF" => 'UTF-8', "\xFF\xFE\x00\x00" => 'UTF-32LE', "\x00\x00\xFE\xFF" => 'UTF-32BE', "\xFF\xFE" => 'UTF-16LE', "\xFE\xFF" => 'UTF-16BE'];

    /** Encodings that others contain: who says the one writes the other. */
    private const MEANT = ['ISO-8859-1' => 'WINDOWS-1252', 'ASCII' => 'UTF-8', 'GB2312' => 'GB18030', 'EUC-KR' => 'UHC', 'SHIFT_JIS' => 'CP932'];

    /** @param  string  $encoding  what the bytes were, in the usual word for it */
    private function __construct(public string $body, public string $encoding)
    {
    }

    /** @throws RefusedText when it is no text, or its encoding can't be told */
    public static function of(string $bytes): self
    {
        [$encoding, $mark] = self::encodingOf($bytes);
        $body = $encoding === 'UTF-8' ? substr($bytes, $mark) : @iconv($encoding, 'UTF-8', substr($bytes, $mark));
        if (! is_string($body) || ! mb_check_encoding($body, 'UTF-8')) {
            throw RefusedText::because("it begins as {$encoding}, but holds what {$encoding} has not; save it as UTF-8");
        }
        if (str_contains($body, "\0")) {
            throw RefusedText::because('it holds null characters: it is no text');
        }

        return new self($body, $encoding);
    }

    /**
     * @param  string  $bytes  of the file, or its beginning
     * @return array{string, int} the encoding, and bytes of the mark that says so
     *
     * @throws RefusedText when it can't be told
     */
    public static function encodingOf(string $bytes): array
    {
        foreach (self::MARKS as $mark => $encoding) {
            if (str_starts_with($bytes, $mark)) {
                return [$encoding, strlen($mark)];
            }
        }
        // (a beginning may end within a character)
        if (mb_check_encoding($bytes, 'UTF-8') || mb_check_encoding(mb_strcut($bytes, 0, max(0, strlen($bytes) - 3), 'UTF-8'), 'UTF-8') && strlen($bytes) >= self::LOOKED_AT) {
            return ['UTF-8', 0];
        }
        $head = substr($bytes, 0, 4096);
        $empty = [0, 0];
        for ($i = strlen($head) - 1; $i >= 0; $i--) {
            $empty[$i % 2] += $head[$i] === "\0" ? 1 : 0;
        }
        if (max($empty) > strlen($head) / 5 && strlen($bytes) % 2 === 0) {
            return [$empty[1] > $empty[0] ? 'UTF-16LE' : 'UTF-16BE', 0];
        }

        $told = self::guessed(substr($bytes, 0, self::LOOKED_AT));

        return [self::MEANT[$told] ?? $told, 0];
    }

    private static function guessed(string $bytes): string
    {
        $process = new Process(['uchardet'], null, ['LC_ALL' => 'C'], $bytes, 20);
        $process->run();
        $told = strtoupper(trim($process->getOutput()));
        if (! $process->isSuccessful() || preg_match('/^[A-Z0-9_-]{2,20}$/', $told) !== 1 || $told === 'UNKNOWN') {
            throw RefusedText::because('its encoding can not be told; save it as UTF-8');
        }

        return $told;
    }
}
