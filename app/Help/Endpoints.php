<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Endpoint;
use App\Support\Refusal;
use Closure;
use Skeno\Core\InvalidValue;

/** The addresses of models that may be asked: what the owner of the installation has not listed is never called. */
final class Endpoints
{
    /** @param  (Closure(string): list<string>)|null  $lookUp  addresses of a host by its name; null: as this machine finds them */
    public function __construct(private readonly ?Closure $lookUp = null)
    {
    }

    /**
     * @param  string  $address  scheme, host and port, such as https://models.example:8443
     * @param  bool  $private  whether it may lead to a private network or this machine
     *
     * @throws InvalidValue
     */
    public function allow(string $address, bool $private): Endpoint
    {
        return Endpoint::query()->updateOrCreate(['address' => self::plain($address)], ['private' => $private]);
    }

    /** @throws InvalidValue when the address is not listed */
    public function listed(string $address): Endpoint
    {
        return Endpoint::query()->where('address', self::plain($address))->first() ?? throw InvalidValue::at('address', $address, 'an address the owner of the installation has allowed');
    }

    /**
     * Where its host is now, so that the very place that was looked at is called.
     *
     * @return array{host: string, port: int, ip: string}
     *
     * @throws Refusal when it is not found, or lies where it may not
     */
    public function resolved(Endpoint $endpoint): array
    {
        $parts = parse_url($endpoint->address);
        $host = trim((string) ($parts['host'] ?? ''), '[]');
        $ips = filter_var($host, FILTER_VALIDATE_IP) !== false ? [$host] : ($this->lookUp ?? self::lookUp(...))($host);
        if ($ips === []) {
            throw Refusal::because('model_not_reached', "{$endpoint->address} is not found");
        }
        foreach ($ips as $ip) {
            if (! $endpoint->private && filter_var($ip, FILTER_VALIDATE_IP, FILTER_FLAG_NO_PRIV_RANGE | FILTER_FLAG_NO_RES_RANGE) === false) {
                throw Refusal::because('model_address_private', "{$endpoint->address} leads to a private address, which it is not listed for");
            }
        }

        return ['host' => $host, 'port' => (int) ($parts['port'] ?? (($parts['scheme'] ?? '') === 'https' ? 443 : 80)), 'ip' => $ips[0]];
    }

    /** @return list<string> */
    private static function lookUp(string $host): array
    {
        $found = @gethostbynamel($host);

        return $found === false ? [] : $found;
    }

    /** @throws InvalidValue */
    private static function plain(string $address): string
    {
        $parts = parse_url($address);
        $scheme = strtolower((string) ($parts['scheme'] ?? ''));
        $host = strtolower((string) ($parts['host'] ?? ''));
        if (! is_array($parts) || ! in_array($scheme, ['http', 'https'], true) || $host === '' || array_diff(array_keys($parts), ['scheme', 'host', 'port', 'path']) !== [] || trim((string) ($parts['path'] ?? ''), '/') !== '' || strlen($address) > 250) {
            throw InvalidValue::at('address', $address, 'http or https, a host and perhaps a port, and nothing else');
        }

        return "{$scheme}://{$host}".(isset($parts['port']) ? ":{$parts['port']}" : '');
    }
}
