<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Help\CallEndpoint;
use App\Models\ChatModel;
use App\Support\Refusal;
use Closure;
use Illuminate\Contracts\Encryption\DecryptException;
use Illuminate\Support\Facades\Crypt;
use Psr\Http\Message\ResponseInterface;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Chat;
use Skeno\Core\Prompt\Said;

/** Asks a chat model by the chat-completions protocol. Its key goes to its address, and into no message. */
final class AskChat
{
    private const SECONDS = 120;

    /** Seconds before it is asked again when there is too much to do for it or it is not well. */
    private const AGAIN = [1, 4];

    /** Seconds it may ask to be left alone. */
    private const PATIENCE = 30;

    private const BUSY = [429, 500, 502, 503, 504];

    /** @param  (Closure(int): mixed)|null  $wait  seconds; null: as the clock goes */
    public function __construct(private readonly CallEndpoint $call, private readonly ?Closure $wait = null)
    {
    }

    /**
     * @throws Refusal when it can't be asked
     * @throws InvalidValue when what it answers is no answer
     */
    public function __invoke(ChatModel $model, string $system, string $text): Said
    {
        $key = $this->key($model);
        $body = Chat::request($model->remote, $system, $text, $model->most_tokens);
        $headers = ['Content-Type' => 'application/json'] + ($key === null ? [] : ['Authorization' => "Bearer {$key}"]);
        for ($try = 0; ; $try++) {
            $response = ($this->call)($model->endpoint, 'POST', $model->path, self::SECONDS, Chat::MOST_BYTES, $headers, $body);
            $status = $response->getStatusCode();
            if ($try >= count(self::AGAIN) || ! in_array($status, self::BUSY, true)) {
                break;
            }
            ($this->wait ?? sleep(...))(self::pause($response, self::AGAIN[$try]));
        }
        // some say again what they were sent
        $said = $key === null ? (string) $response->getBody() : str_replace($key, '…', (string) $response->getBody());
        if ($status !== 200) {
            $fault = Chat::fault($said);
            throw Refusal::because('model_refused', "{$model->name} answered {$status}".($fault === '' ? '' : ": {$fault}"));
        }

        return Chat::said($said);
    }

    private static function pause(ResponseInterface $response, int $seconds): int
    {
        $says = $response->getHeaderLine('Retry-After');

        return ctype_digit($says) && strlen($says) < 6 ? min(self::PATIENCE, max(1, (int) $says)) : $seconds;
    }

    private function key(ChatModel $model): ?string
    {
        try {
            return $model->secret === null ? null : Crypt::decryptString($model->secret);
        } catch (DecryptException) {
            throw Refusal::because('model_key_unreadable', "the key of {$model->name} was kept by another installation: enter it again");
        }
    }
}
