<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** Every page that is not the API's is the front end, with its content security policy moved from the page to a header. */
final class SpaController
{
    public function __invoke(Request $request): Response
    {
        // a missing asset must be a 404, never a page (a stale chunk name would give a type error)
        abort_if($request->is('_app/*', 'api/*') || preg_match('/\.(js|css|map|png|svg|ico|woff2?|json|txt)$/', $request->path()) === 1, 404);
        $file = base_path('web/build/app.html');
        abort_unless(is_file($file), 503, 'the front end is not built: run bin/setup');
        $html = (string) file_get_contents($file);
        $pattern = '#<meta http-equiv="content-security-policy" content="([^"]*)">#i';
        abort_unless(preg_match($pattern, $html, $found) === 1, 500, 'app.html has no content security policy');

        return new Response((string) preg_replace($pattern, '', $html), 200, [
            'Content-Type' => 'text/html; charset=utf-8',
            'Cache-Control' => 'no-cache',
            'Content-Security-Policy' => html_entity_decode($found[1], ENT_QUOTES)."; frame-ancestors 'none'",
        ]);
    }
}
