<?php

declare(strict_types=1);

namespace Skeno\StandIns;

/** The chat-completions side of the stand-in: who may ask, what is asked of which model, what comes back. */
final class ChatServer
{
    /** The key it takes; made up, and worth nothing anywhere else. */
    public const KEY = 'larkmoor-stand-in';

    /** note-reader answers at once, note-reader-slow thinks for a while, note-liar says what nobody can use. */
    public const MODELS = ['note-reader', 'note-reader-slow', 'note-liar'];

    /** Seconds that the slow one thinks. */
    private const SLOW = 2;

    /** @return array{int, array<string, mixed>|string} status, and JSON or what is no JSON */
    public function answer(string $authorization, string $body): array
    {
        if ($authorization !== 'Bearer '.self::KEY) {
            return self::fault(401, 'this key is not known here');
        }
        $asked = json_decode($body, true);
        $model = is_array($asked) ? ($asked['model'] ?? null) : null;
        if (! is_array($asked) || ! in_array($model, self::MODELS, true)) {
            return self::fault(is_array($asked) ? 404 : 400, is_array($asked) ? 'there is no such model here; there are '.implode(', ', self::MODELS) : 'this is no JSON');
        }
        $said = ['system' => '', 'user' => ''];
        foreach (is_array($asked['messages'] ?? null) ? $asked['messages'] : [] as $message) {
            if (is_array($message) && is_string($message['role'] ?? null) && isset($said[$message['role']]) && is_string($message['content'] ?? null)) {
                $said[$message['role']] .= $message['content'];
            }
        }
        if ($said['user'] === '') {
            return self::fault(400, 'there is no message of the user');
        }
        if ($model === 'note-liar') {
            return $this->lie($said['user']);
        }
        if ($model === 'note-reader-slow') {
            sleep(self::SLOW);
        }
        $words = (new NoteReader)->reply($said['system'], $said['user']);
        $most = is_int($asked['max_tokens'] ?? null) && $asked['max_tokens'] > 0 ? $asked['max_tokens'] : 4096;
        $cut = self::tokens($words) > $most;

        return [200, [
            'id' => 'said-'.hash('xxh3', $body), 'object' => 'chat.completion', 'model' => $model,
            'choices' => [['index' => 0, 'message' => ['role' => 'assistant', 'content' => $cut ? mb_substr($words, 0, $most * 4) : $words], 'finish_reason' => $cut ? 'length' : 'stop']],
            'usage' => ['prompt_tokens' => self::tokens($said['system']) + self::tokens($said['user']), 'completion_tokens' => min($most, self::tokens($words)), 'total_tokens' => self::tokens($said['system']) + self::tokens($said['user']) + min($most, self::tokens($words))],
        ]];
    }

    /**
     * What a server says that is broken or means ill.
     *
     * @return array{int, array<string, mixed>|string}
     */
    private function lie(string $text): array
    {
        $spans = static fn (array $spans): array => [200, ['choices' => [['message' => ['content' => (string) json_encode(['spans' => $spans])], 'finish_reason' => 'stop']], 'usage' => ['prompt_tokens' => -1, 'completion_tokens' => 'many']]];

        return match (hexdec(substr(hash('xxh3', $text), 0, 4)) % 7) {
            0 => [200, '<html><body>Back soon</body></html>'],
            1 => [200, ['choices' => []]],
            2 => $spans([['class' => 'pest', 'start' => -5, 'end' => 9e15], ['class' => 'pest', 'text' => '', 'start' => 'one'], 'pest', ['class' => ['pest'], 'text' => ['a']]]),
            3 => $spans(array_fill(0, 20_000, ['class' => 'pest', 'text' => 'e'])),
            4 => self::fault(429, 'too many requests'),
            5 => self::fault(500, "a fault\u{202E} with\nmany lines".str_repeat('!', 3000)),
            default => [200, ['choices' => [['message' => ['content' => null, 'refusal' => 'I would rather not'], 'finish_reason' => 'stop']]]],
        };
    }

    /** @return array{int, array<string, mixed>} */
    private static function fault(int $status, string $message): array
    {
        return [$status, ['error' => ['message' => $message, 'type' => 'stand_in']]];
    }

    /** About four letters are one. */
    private static function tokens(string $words): int
    {
        return (int) ceil(mb_strlen($words) / 4);
    }
}
