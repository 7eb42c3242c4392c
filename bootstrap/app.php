<?php

declare(strict_types=1);

use App\Http\Middleware\Right;
use App\Http\Middleware\SecureCookies;
use App\Http\Middleware\SecurityHeaders;
use App\Http\Middleware\SendFile;
use App\Http\Middleware\Stateful;
use App\Http\Problem;
use App\Support\StateFolder;
use Illuminate\Auth\Middleware\Authenticate;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Route;

// a closure keeps its variables out of the scope of whoever requires this file
return (static function (): Application {
    $base = dirname(__DIR__);
    $folder = StateFolder::prepare(StateFolder::place($base));

    return Application::configure(basePath: $base)
        ->withProviders([App\Providers\AppServiceProvider::class], false)
        ->withRouting(
            api: $base.'/routes/api.php',
            apiPrefix: 'api/v1',
            then: static function () use ($base): void {
                Route::group([], $base.'/routes/spa.php');
            },
        )
        ->withCommands([$base.'/app/Console'])
        ->withMiddleware(static function (Middleware $middleware): void {
            $middleware->remove(HandleCors::class);
            // who asks is who the proxy says asks, only where the proxy is known
            $proxies = array_values(array_filter(array_map(trim(...), explode(',', (string) getenv('SKENO_TRUSTED_PROXIES')))));
            if ($proxies !== []) {
                $middleware->trustProxies(at: $proxies === ['*'] ? '*' : $proxies);
            }
            $middleware->api(prepend: [SecureCookies::class, Stateful::class]);
            $middleware->append([SecurityHeaders::class, SendFile::class]);
            $middleware->alias(['right' => Right::class, 'auth' => Authenticate::class]);
            // a project's existence is nobody's business before it is known who asks
            $middleware->priority([SecureCookies::class, Stateful::class, Authenticate::class, Right::class]);
            $middleware->redirectGuestsTo(static fn (): null => null);
        })
        ->withExceptions(static function (Exceptions $exceptions): void {
            $exceptions->shouldRenderJsonWhen(static fn (Request $request): bool => $request->is('api/*'));
            Problem::register($exceptions);
        })
        ->create()
        ->useStoragePath($folder)
        ->useEnvironmentPath($folder);
})();
