<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Files\CloudStore;
use App\Http\Input;
use App\Http\ShownItem;
use App\Http\VisibleTurn;
use App\Intake\DeriveFiles;
use App\Support\Refusal;
use App\Work\FitCuboid;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Cache;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** What the bench shows of a cloud, and cuboids fitted to its points. */
final class CloudController
{
    private const TYPES = ['json' => 'application/json', 'bin' => 'application/octet-stream', 'jpg' => 'image/jpeg', 'png' => 'image/png'];

    /** Seconds in which what is missing of a cloud is asked for once. */
    private const ASKED = 60;

    /** A file of a cloud for the bench; of the large ones a range at a time. */
    public function file(Request $request, CloudStore $clouds): BinaryFileResponse
    {
        $item = ShownItem::of($request);
        $name = (string) $request->route('file');
        if ($item->kind !== 'cloud' || ! CloudStore::isFile($name)) {
            throw new NotFoundHttpException('there is no such file of this item');
        }
        try {
            $file = $clouds->file($item->asset, $name);
        } catch (Refusal $e) {
            if (Cache::add("cloud-{$item->asset->id}", true, self::ASKED)) {
                dispatch(new DeriveFiles([$item->id]));
            }
            throw $e;
        }
        if (! is_file($file)) {
            throw new NotFoundHttpException('there is no such frame of this item');
        }

        return new BinaryFileResponse($file, 200, ['Content-Type' => self::TYPES[pathinfo($name, PATHINFO_EXTENSION)], 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    /** A cuboid fitted to points. */
    public function fit(Request $request, FitCuboid $fit): JsonResponse
    {
        return new JsonResponse($fit(VisibleTurn::of($request)->item, Input::body($request)));
    }
}
