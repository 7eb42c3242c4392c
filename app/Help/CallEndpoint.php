<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Endpoint;
use App\Support\Refusal;
use GuzzleHttp\Client;
use GuzzleHttp\Exception\ConnectException;
use GuzzleHttp\Exception\GuzzleException;
use GuzzleHttp\Exception\RequestException;
use GuzzleHttp\Handler\CurlHandler;
use GuzzleHttp\HandlerStack;
use Psr\Http\Message\ResponseInterface;

/**
 * Calls a listed address and nothing else: no redirects, certificates are checked, and what takes too long or says too much is left. What was
 * answered is the caller's to read, whatever its status.
 */
final class CallEndpoint
{
    private const CONNECT_SECONDS = 5;

    public function __construct(private readonly Endpoints $endpoints)
    {
    }

    /**
     * @param  int  $seconds  the answer is waited for
     * @param  int  $most  bytes of an answer
     * @param  array<string, string>  $headers
     *
     * @throws Refusal when there is no whole answer
     */
    public function __invoke(Endpoint $endpoint, string $method, string $path, int $seconds, int $most, array $headers = [], string $body = ''): ResponseInterface
    {
        $at = $this->endpoints->resolved($endpoint);
        $answer = new Bounded($most);
        try {
            // by curl and nothing else: only it calls the very place that was looked at, whatever the name leads to by now
            return (new Client(['handler' => HandlerStack::create(new CurlHandler)]))->request($method, $endpoint->address.$path, [
                'headers' => $headers, 'body' => $body, 'http_errors' => false, 'allow_redirects' => false, 'verify' => true, 'proxy' => '', 'sink' => $answer,
                'connect_timeout' => self::CONNECT_SECONDS, 'timeout' => $seconds, 'protocols' => ['http', 'https'],
                'force_ip_resolve' => str_contains($at['ip'], ':') ? 'v6' : 'v4',
                'curl' => [CURLOPT_RESOLVE => ["{$at['host']}:{$at['port']}:{$at['ip']}"]],
            ]);
        } catch (GuzzleException $e) {
            $error = $e instanceof ConnectException || $e instanceof RequestException ? (int) ($e->getHandlerContext()['errno'] ?? 0) : 0;
            throw match (true) {
                $answer->overflowed => Refusal::because('model_says_too_much', "{$endpoint->address} sends more than ".round($most / 1e6).' MB'),
                $error === CURLE_OPERATION_TIMEOUTED => Refusal::because('model_not_reached', "{$endpoint->address} takes longer than {$seconds} seconds"),
                $answer->written > 0, $error === CURLE_PARTIAL_FILE => Refusal::because('model_not_reached', "{$endpoint->address} broke off in the middle of its answer"),
                default => Refusal::because('model_not_reached', "{$endpoint->address} does not answer: ".preg_replace('/ \(see .*$/', '', $e->getMessage())),
            };
        }
    }
}
