<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Files\AssetStore;
use App\Files\CloudStore;
use App\Files\TextStore;
use App\Files\Views;
use App\Http\Input;
use App\Items\Keys;
use App\Looks\LookAtObjects;
use App\Models\MarkRow;
use App\Objects\Objects;
use App\Objects\Sayings;
use App\Objects\Stretches;
use App\Support\Refusal;
use App\Work\ApplyEdits;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Text\Portrait;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** Marks one by one, whatever items they are on: the contact sheet, sweeps, and edits made there. */
final class ObjectController
{
    /** Side of a crop, in px. */
    private const SIDE = 192;

    /** Picture shown around an object on each side, as a share of its longer side. */
    private const AROUND = 0.6;

    public function index(Request $request, Objects $objects): JsonResponse
    {
        $project = Input::project($request);
        $page = $objects->page(Input::actor($request), $project, $request->query->all());
        if ($page['due'] > 0) {
            LookAtObjects::ask($project->id);
            $page['looking'] = true;
        }

        return new JsonResponse($page);
    }

    public function said(Request $request, Sayings $sayings): JsonResponse
    {
        return new JsonResponse($sayings->page(Input::actor($request), Input::project($request), $request->query->all()));
    }

    public function stretches(Request $request, Stretches $stretches): JsonResponse
    {
        return new JsonResponse($stretches->page(Input::actor($request), Input::project($request), $request->query->all()));
    }

    /** An object with some picture around it, in the middle of a square. */
    public function crop(Request $request, AssetStore $store, Views $views, TextStore $texts, CloudStore $clouds): BinaryFileResponse
    {
        $row = MarkRow::query()->where('project_id', Input::project($request)->id)->where('layer', LayerKind::Agreed)->with('item.asset')->findOrFail((string) $request->route('mark'));
        $place = $request->query('place');
        if ($row->stretches !== null && $place !== null && $place !== (string) $row->place) {
            // one of its other keys
            $key = is_string($place) && ctype_digit($place) ? Keys::at($row, (int) $place) : null;
            $row->geometry = $key?->geometry?->toArray() ?? throw InvalidValue::at('place', $place, 'a key of this track');
            $row->place = $key->place;
        }
        if ($row->kind === Shape::Span->value) {
            $color = Input::project($request)->codebookVersion()->codebook()->class($row->class)->color ?? '#857E6D';
            $file = $store->made(Objects::cropFile($row, 'svg'), static fn (): string => Portrait::ofMark($texts->of($row->item->asset), $row->mark(), $color));

            return new BinaryFileResponse($file, 200, ['Content-Type' => 'image/svg+xml', 'Cache-Control' => 'private, max-age=31536000, immutable']);
        }
        $file = $store->made(Objects::cropFile($row), static function () use ($row, $views, $clouds): string {
            $mark = $row->mark();

            return $row->kind === Shape::Cuboid->value
                ? $clouds->portrait($row->item->asset, $row->place ?? 0, $mark, self::SIDE)
                : $views->open($row->item->asset, $row->place)->crop($mark->flat()->bounds(), self::AROUND, self::SIDE);
        });

        return new BinaryFileResponse($file, 200, ['Content-Type' => 'image/jpeg', 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    /** Edits of marks on any items the person reaches, beside the turns. */
    public function edits(Request $request, ApplyEdits $apply): JsonResponse
    {
        $project = Input::project($request);
        $edits = Input::body($request)->list('edits');
        if (count($edits) > ApplyEdits::MOST) {
            throw InvalidValue::at('edits', $edits, 'at most '.ApplyEdits::MOST.' at a time');
        }
        if (count($edits) > 1 && ApplyEdits::points($edits) > ApplyEdits::MOST_POINTS) {
            throw Refusal::because('batch_too_large', 'these edits hold more than '.ApplyEdits::MOST_POINTS.' points together; send fewer at a time');
        }
        $results = $apply->across(Input::actor($request), $project, $edits);
        LookAtObjects::ask($project->id);

        return new JsonResponse(['results' => $results, 'findings' => [], 'codebook_version' => $project->codebookVersion()->version, 'seconds' => 0]);
    }
}
