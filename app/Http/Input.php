<?php

declare(strict_types=1);

namespace App\Http;

use App\Access\Actor;
use App\Models\Project;
use Illuminate\Http\Request;
use Skeno\Core\Fields;

/** What a controller reads from a request that has passed its policy. */
final class Input
{
    public static function body(Request $request): Fields
    {
        $data = json_decode($request->getContent() === '' ? '{}' : $request->getContent(), true, 64);

        return Fields::of($data, '');
    }

    /** The project of the route; put there by the Right middleware. */
    public static function project(Request $request): Project
    {
        $project = $request->attributes->get('project');
        assert($project instanceof Project);

        return $project;
    }

    public static function actor(Request $request): Actor
    {
        $actor = $request->attributes->get('actor');
        assert($actor instanceof Actor);

        return $actor;
    }

    public static function id(Request $request, string $parameter): int
    {
        $id = $request->route($parameter);
        abort_unless(is_string($id) && ctype_digit($id) && strlen($id) < 19, 404);

        return (int) $id;
    }
}
