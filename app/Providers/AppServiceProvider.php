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
        Model::shouldBeStrict(! $this->app->environment('production'));
        Model::unguard();
        // per person tried and per address, so that neither one account nor many can be guessed through
        RateLimiter::for('sign-in', static function (Request $request): array {
            $account = mb_strtolower($request->string('email')->value()) ?: (string) $request->user()?->getAuthIdentifier();
            $limits = [Limit::perMinute(60)->by('address|'.$request->ip())];

            return $account === '' ? $limits : [Limit::perMinute(8)->by("account|{$account}|".$request->ip()), ...$limits];
        });
    }
}
