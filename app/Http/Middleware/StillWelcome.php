<?php

declare(strict_types=1);

namespace App\Http\Middleware;

use App\Models\User;
use Closure;
use Illuminate\Auth\AuthenticationException;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** A session ends with the account, and with the password it was begun under. */
final class StillWelcome
{
    /** Where a session keeps what the password was. */
    private const KEY = 'password_mark';

    public function handle(Request $request, Closure $next): Response
    {
        $user = $request->user();
        if ($user instanceof User) {
            $kept = $request->hasSession() ? $request->session()->get(self::KEY) : null;
            if ($user->disabled_at !== null || ($kept !== null && $kept !== self::mark($user))) {
                if ($request->hasSession()) {
                    $request->session()->invalidate();
                }
                throw new AuthenticationException;
            }
        }

        return $next($request);
    }

    /** Notes in a session which password it was begun under. */
    public static function begin(Request $request, User $user): void
    {
        if ($request->hasSession()) {
            $request->session()->put(self::KEY, self::mark($user));
        }
    }

    private static function mark(User $user): string
    {
        return hash('sha256', $user->password);
    }
}
