<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Laravel\Sanctum\Http\Middleware\EnsureFrontendRequestsAreStateful;

/** Same-origin app: every request without a bearer token is a browser's, with session and CSRF check. */
final class Stateful extends EnsureFrontendRequestsAreStateful
{
    public static function fromFrontend($request): bool
    {
        return $request->bearerToken() === null;
    }
}
