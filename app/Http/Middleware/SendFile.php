<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use RuntimeException;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Response;

/**
 * Leaves the sending of files to the web server where SKENO_SEND_FILE says that it can: `x-sendfile`, or `x-accel-redirect=/place/` with
 * the internal location under which the server has the state folder. What a client says of it is never believed.
 */
final class SendFile
{
    private const HEADERS = ['X-Sendfile-Type', 'X-Accel-Mapping'];

    public function handle(Request $request, Closure $next): Response
    {
        foreach (self::HEADERS as $header) {
            $request->headers->remove($header);
        }
        $setting = trim((string) getenv('SKENO_SEND_FILE'));
        if ($setting !== '') {
            foreach (self::headers($setting, storage_path()) as $header => $value) {
                $request->headers->set($header, $value);
            }
            BinaryFileResponse::trustXSendfileTypeHeader();
        }

        return $next($request);
    }

    /** @return array<string, string> */
    private static function headers(string $setting, string $folder): array
    {
        if (strtolower($setting) === 'x-sendfile') {
            return ['X-Sendfile-Type' => 'X-Sendfile'];
        }
        if (preg_match('#^x-accel-redirect=(/(?:[\w.~-]+/)+)$#iD', $setting, $parts) === 1) {
            return ['X-Sendfile-Type' => 'X-Accel-Redirect', 'X-Accel-Mapping' => '"'.addcslashes("{$folder}/", '"\\')."\"=\"{$parts[1]}\""];
        }

        throw new RuntimeException("SKENO_SEND_FILE has to be x-sendfile or x-accel-redirect=/place/, not \"{$setting}\"");
    }
}
