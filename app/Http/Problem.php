<?php

declare(strict_types=1);

namespace App\Http;

use App\Support\Lock;
use App\Support\Refusal;
use Illuminate\Auth\Access\AuthorizationException;
use Illuminate\Auth\AuthenticationException;
use Illuminate\Database\Eloquent\ModelNotFoundException;
use Illuminate\Database\QueryException;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Session\TokenMismatchException;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\InvalidValue;
use Skeno\Core\Workflow\IllegalMove;
use Symfony\Component\HttpKernel\Exception\HttpExceptionInterface;
use Throwable;

/** A problem document (RFC 9457): a stable code for programs, a sentence for people, the field where there is one. */
final class Problem
{
    /** Statuses of refusals; what is not here conflicts with the state of things (409). */
    private const STATUS = [
        'not_allowed' => 403, 'not_assigned' => 403,
        'invitation_over' => 410, 'link_over' => 410,
        'piece_too_large' => 413, 'batch_too_large' => 413,
        'doubts' => 422, 'findings' => 422, 'no_items' => 422, 'not_seen' => 422, 'not_taken' => 422, 'nothing_marked' => 422, 'objects_marked' => 422, 'reason_missing' => 422, 'wrong_sign_in' => 422, 'not_able' => 422,
        'codebook_changing' => 503,
        'disk_full' => 507,
    ];

    /** Seconds after which it is worth asking again when somebody else writes. */
    private const RETRY = 2;

    /** @param  array<string, mixed>  $more members beside the usual ones */
    public static function response(int $status, string $code, string $detail, ?string $field = null, array $more = [], ?int $retryAfter = null): JsonResponse
    {
        return new JsonResponse(
            ['type' => 'about:blank', 'title' => self::title($status), 'status' => $status, 'code' => $code, 'detail' => $detail] + ($field === null ? [] : ['field' => $field]) + $more,
            $status,
            ['Content-Type' => 'application/problem+json'] + ($retryAfter === null ? [] : ['Retry-After' => (string) $retryAfter]),
            JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES,
        );
    }

    public static function register(Exceptions $exceptions): void
    {
        $exceptions->dontReport([IllegalMove::class, InvalidValue::class, InvalidCodebook::class, Refusal::class]);
        $exceptions->render(static function (Throwable $e, Request $request): ?JsonResponse {
            return $request->is('api/*') ? self::of($e) : null;
        });
    }

    private static function of(Throwable $e): JsonResponse
    {
        return match (true) {
            $e instanceof Refusal => self::response($status = self::STATUS[$e->reason] ?? 409, $e->reason, $e->getMessage(), null, $e->more, $status === 503 ? self::RETRY : null),
            $e instanceof InvalidValue => self::response(422, 'invalid_value', $e->getMessage(), $e->field),
            $e instanceof InvalidCodebook => self::response(422, 'invalid_codebook', $e->getMessage(), $e->errors[0]['path'], ['errors' => $e->errors]),
            $e instanceof IllegalMove => self::response(409, $e->reason, $e->getMessage()),
            $e instanceof AuthenticationException => self::response(401, 'not_signed_in', 'you are not signed in'),
            $e instanceof AuthorizationException => self::response(403, 'not_allowed', $e->getMessage()),
            $e instanceof ModelNotFoundException => self::response(404, 'not_found', 'there is no such thing here'),
            $e instanceof TokenMismatchException => self::response(419, 'session_ended', 'your session has ended; sign in again, nothing is lost'),
            // somebody writes for longer than one waits: the outbox, and who else asks, comes again
            Lock::isBusy($e) => self::response(503, 'busy_writing', 'the server is busy writing; nothing was changed, try again in a moment', retryAfter: self::RETRY),
            $e instanceof QueryException && str_contains($e->getMessage(), 'disk is full') => self::response(507, 'disk_full', 'the disk of the server is full; nothing was changed'),
            $e instanceof HttpExceptionInterface && $e->getStatusCode() === 419 => self::response(419, 'session_ended', 'your session has ended; sign in again, nothing is lost'),
            $e instanceof HttpExceptionInterface && $e->getStatusCode() === 429 => self::response(429, 'too_many_tries', 'too many tries; wait a minute'),
            $e instanceof HttpExceptionInterface && $e->getStatusCode() === 403 => self::response(403, 'not_allowed', $e->getMessage() ?: 'your role does not allow this'),
            $e instanceof HttpExceptionInterface => self::response($e->getStatusCode(), $e->getStatusCode() === 404 ? 'not_found' : 'refused', $e->getMessage() ?: self::title($e->getStatusCode())),
            default => self::response(500, 'failed', 'something went wrong on the server; it was written to the log and nothing was changed'),
        };
    }

    private static function title(int $status): string
    {
        return \Symfony\Component\HttpFoundation\Response::$statusTexts[$status] ?? 'Error';
    }
}
