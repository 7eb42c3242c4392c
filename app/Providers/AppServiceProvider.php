<?php

declare(strict_types=1);

namespace App\Providers;

use App\Help\ModelFinders;
use App\Help\Runs;
use App\Http\Input;
use App\Prompts\PromptFinders;
use App\Support\Job;
use App\Support\SqliteConnector;
use App\Upkeep\Statistics;
use App\Upkeep\Upkeep;
use Carbon\CarbonImmutable;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Contracts\Foundation\Application;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Events\MigrationsEnded;
use Illuminate\Http\Request;
use Illuminate\Queue\Events\Looping;
use Illuminate\Support\Facades\Date;
use Illuminate\Support\Facades\Event;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    public function register(): void
    {
        $this->app->bind('db.connector.sqlite', SqliteConnector::class);
        Date::use(CarbonImmutable::class);
        // whoever may be asked in runs
        $this->app->when(Runs::class)->needs('$finders')->give(static fn (Application $app): array => [$app->make(ModelFinders::class), $app->make(PromptFinders::class)]);
    }

    public function boot(): void
    {
        Queue::createPayloadUsing(static fn (mixed $connection, mixed $queue, array $payload): array => Job::payload($payload['data']['command'] ?? null));
        // the worker looks after what nobody else would come back to
        Event::listen(MigrationsEnded::class, static fn () => app(Statistics::class)());
        Event::listen(Looping::class, static fn () => app(Upkeep::class)->whenDue());
        Model::shouldBeStrict(! $this->app->environment('production'));
        Model::unguard();
        // per person tried and per address, so that neither one account nor many can be guessed through
        RateLimiter::for('sign-in', static function (Request $request): array {
            // the same reading of the body as the controller's, whatever the request calls its type
            $email = Input::body($request)->raw('email');
            $account = is_string($email) ? mb_strtolower(trim($email)) : (string) $request->user()?->getAuthIdentifier();
            $limits = [Limit::perMinute(60)->by('address|'.$request->ip())];

            return $account === '' ? $limits : [Limit::perMinute(8)->by("account|{$account}|".$request->ip()), Limit::perMinute(40)->by("account|{$account}"), ...$limits];
        });
    }
}
