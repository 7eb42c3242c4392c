<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use JsonException;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * What is sent to a model by the chat-completions protocol, and what comes back: the prompt as the message of the system, the text as the
 * one message of the user, so that nothing in a text stands where a prompt does.
 */
final class Chat
{
    /** Bytes of an answer that are read. */
    public const MOST_BYTES = 8_000_000;

    /** Characters of what a server says of its fault. */
    private const FAULT = 200;

    /**
     * @param  int  $most  tokens the reply may have
     * @return string JSON
     */
    public static function request(string $model, string $system, string $text, int $most, float $temperature = 0.0): string
    {
        return json_encode([
            'model' => $model,
            'messages' => [['role' => 'system', 'content' => $system], ['role' => 'user', 'content' => $text]],
            'temperature' => $temperature,
            'max_tokens' => $most,
            'stream' => false,
        ], JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
    }

    /**
     * Reads an answer: its first choice.
     *
     * @throws InvalidValue when it is none
     */
    public static function said(string $body): Said
    {
        $data = Fields::of(self::json($body), 'answer');
        $choices = $data->raw('choices');
        if (! is_array($choices) || ! array_is_list($choices) || $choices === []) {
            throw InvalidValue::at($data->path('choices'), $choices, 'a list with a choice in it');
        }
        $choice = Fields::of($choices[0], $data->path('choices[0]'));
        $message = Fields::of($choice->raw('message'), $choice->path('message'));
        $refused = $message->raw('refusal');
        $usage = is_array($data->raw('usage')) ? $data->raw('usage') : [];

        return new Said(
            is_string($refused) && trim($refused) !== '' ? '' : self::words($message),
            self::count($usage, 'prompt_tokens'),
            self::count($usage, 'completion_tokens'),
            match (true) {
                is_string($refused) && trim($refused) !== '' => 'the model refused: '.self::line($refused),
                $choice->raw('finish_reason') === 'length' => 'the reply was cut at its most tokens',
                $choice->raw('finish_reason') === 'content_filter' => 'the server held the reply back',
                default => null,
            },
        );
    }

    /** What a server says of its fault, in a line: `{"error": {"message"}}`, `{"error"}`, `{"message"}`, or nothing that can be shown. */
    public static function fault(string $body): string
    {
        try {
            $data = self::json($body);
        } catch (InvalidValue) {
            // a page of a proxy is no message
            return '';
        }
        $error = is_array($data) ? ($data['error'] ?? $data['message'] ?? null) : null;
        $said = is_array($error) ? ($error['message'] ?? null) : $error;

        return is_string($said) ? self::line($said) : '';
    }

    /** The content of a message: words, or a list of parts of which those of words count. */
    private static function words(Fields $message): string
    {
        $content = $message->raw('content');
        if (is_array($content) && array_is_list($content)) {
            $parts = array_map(static fn (mixed $part): string => is_array($part) && ($part['type'] ?? null) === 'text' && is_string($part['text'] ?? null) ? $part['text'] : '', $content);

            return implode('', $parts);
        }
        if (! is_string($content)) {
            throw InvalidValue::at($message->path('content'), $content, 'words');
        }

        return $content;
    }

    /** @param  array<array-key, mixed>  $usage */
    private static function count(array $usage, string $key): ?int
    {
        $count = $usage[$key] ?? null;

        return is_int($count) && $count >= 0 && $count <= 1_000_000_000 ? $count : null;
    }

    private static function json(string $body): mixed
    {
        if (strlen($body) > self::MOST_BYTES) {
            throw InvalidValue::at('answer', strlen($body).' bytes', 'at most '.(self::MOST_BYTES / 1e6).' MB');
        }
        try {
            return json_decode($body, true, 32, JSON_THROW_ON_ERROR);
        } catch (JsonException $error) {
            throw InvalidValue::at('answer', mb_strimwidth(self::line($body), 0, 60, '…'), 'JSON ('.$error->getMessage().')');
        }
    }

    /** A stranger's words in one line, without what steers a terminal or a page. */
    private static function line(string $said): string
    {
        return mb_strimwidth(trim((string) preg_replace('/[\s\p{C}]+/u', ' ', mb_scrub($said))), 0, self::FAULT, '…');
    }
}
