<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** Behind TLS no cookie is set without Secure, so that none is ever sent in the clear; without TLS, as on one's own machine, it has to be. */
final class SecureCookies
{
    public function handle(Request $request, Closure $next): Response
    {
        config(['session.secure' => $request->isSecure()]);

        return $next($request);
    }
}
