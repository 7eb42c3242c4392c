<?php

declare(strict_types=1);

namespace App\Providers;

use App\Support\SqliteConnector;
use Carbon\CarbonImmutable;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Date;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    public function register(): void
    {
        $this->app->bind('db.connector.sqlite', SqliteConnector::class);
        Date::use(CarbonImmutable::class);
    }

    public function boot(): void
    {
        Model::shouldBeStrict(! $this->app->isProduction());
        Model::unguard();
        // per person tried and per address, so that neither one account nor many can be guessed through
        RateLimiter::for('sign-in', static fn (Request $request): array => [
            Limit::perMinute(8)->by('account|'.mb_strtolower($request->string('email')->value()).'|'.$request->ip()),
            Limit::perMinute(60)->by('address|'.$request->ip()),
        ]);
    }
}
