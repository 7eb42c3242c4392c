<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Endpoint;
use App\Models\ModelRow;
use App\Support\Refusal;
use Psr\Http\Message\ResponseInterface;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Looked;
use Skeno\Core\Inference\Message;
use Skeno\Core\Inference\Reading;
use Skeno\Core\InvalidValue;

/** Asks a model by the Open Inference Protocol, version 2. */
final class CallModel
{
    private const SECONDS = 60;

    /** Bytes of an answer. */
    private const MOST = 200_000_000;

    public function __construct(private readonly CallEndpoint $endpoint)
    {
    }

    /**
     * Whether it is there and ready, and what it says of itself.
     *
     * @return array{ready: bool, inputs: list<array{name: string, datatype: string, shape: list<mixed>}>, outputs: list<array{name: string, datatype: string, shape: list<mixed>}>}
     *
     * @throws Refusal|InvalidValue
     */
    public function described(Endpoint $endpoint, string $remote, int $seconds = self::SECONDS): array
    {
        $ready = $this->call($endpoint, 'GET', self::path($remote, '/ready'), $seconds, refuses: false)->getStatusCode() === 200;
        $said = Fields::of(json_decode((string) $this->call($endpoint, 'GET', self::path($remote, ''), $seconds)->getBody(), true), 'metadata');
        $tensors = static fn (string $side): array => array_map(static fn (Fields $one): array => ['name' => $one->string('name', 200), 'datatype' => $one->string('datatype', 20), 'shape' => $one->list('shape')], $said->objects($side));

        return ['ready' => $ready, 'inputs' => $tensors('inputs'), 'outputs' => $tensors('outputs')];
    }

    /**
     * What it finds on a picture.
     *
     * @param  callable(int, int): Colours  $picture  the whole picture in a size
     * @param  int  $width  of the picture, $height likewise
     * @param  int  $seconds  its answer is waited for
     *
     * @throws Refusal when it can't be asked
     * @throws InvalidValue when it does not say what its card says
     */
    public function find(ModelRow $model, callable $picture, int $width, int $height, int $seconds = self::SECONDS): Looked
    {
        $endpoint = $model->endpoint ?? throw Refusal::because('model_not_reached', "{$model->name} has no address any more");
        $card = $model->card();
        $placed = $card->placed($width, $height);
        ['body' => $body, 'length' => $length] = Message::request($card->input($picture($placed->columns, $placed->rows), $placed), $card->wanted(), true);
        $response = $this->call($endpoint, 'POST', self::path($model->remote, '/infer'), $seconds, ['Content-Type' => 'application/octet-stream', Message::LENGTH => (string) $length], $body);
        $says = $response->getHeaderLine(Message::LENGTH);
        $answer = Message::response((string) $response->getBody(), ctype_digit($says) ? (int) $says : null);

        return Reading::of($card, $answer, $width, $height);
    }

    /** @param  array<string, string>  $headers */
    private function call(Endpoint $endpoint, string $method, string $path, int $seconds, array $headers = [], string $body = '', bool $refuses = true): ResponseInterface
    {
        $response = ($this->endpoint)($endpoint, $method, $path, $seconds, self::MOST, $headers, $body);
        if ($refuses && $response->getStatusCode() !== 200) {
            throw Refusal::because('model_refused', "{$endpoint->address} answered {$response->getStatusCode()}".self::reason($response));
        }

        return $response;
    }

    private static function reason(ResponseInterface $response): string
    {
        $body = $response->getBody();
        $body->rewind();
        $said = json_decode($body->read(2000), true);

        return is_array($said) && is_string($said['error'] ?? null) ? ': '.mb_scrub(mb_substr($said['error'], 0, 200)) : '';
    }

    private static function path(string $remote, string $what): string
    {
        [$name, $version] = [...explode('@', $remote, 2), null];

        return '/v2/models/'.rawurlencode($name).($version === null ? '' : '/versions/'.rawurlencode($version)).$what;
    }
}
