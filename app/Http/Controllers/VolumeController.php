<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Files\VolumeStore;
use App\Http\Input;
use App\Http\ShownItem;
use App\Http\VisibleTurn;
use App\Intake\DeriveFiles;
use App\Support\Refusal;
use App\Work\GrowRegion;
use App\Work\ReworkSolid;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Cache;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** What the bench shows of a volume, and regions found in it. */
final class VolumeController
{
    /** Seconds in which what is missing of a volume is asked for once. */
    private const ASKED = 60;

    /** A file of a volume for the bench; of the large ones a range at a time. */
    public function file(Request $request, VolumeStore $volumes): BinaryFileResponse
    {
        $item = ShownItem::of($request);
        $name = (string) $request->route('file');
        if ($item->kind !== 'volume' || ! array_key_exists($name, VolumeStore::FILES)) {
            throw new NotFoundHttpException('there is no such file of this item');
        }
        try {
            $file = $volumes->file($item->asset, $name);
        } catch (Refusal $e) {
            if (Cache::add("volume-{$item->asset->id}", true, self::ASKED)) {
                dispatch(new DeriveFiles([$item->id]));
            }
            throw $e;
        }

        return new BinaryFileResponse($file, 200, ['Content-Type' => VolumeStore::FILES[$name], 'Cache-Control' => 'private, max-age=31536000, immutable']);
    }

    /** An object worked on as one body. */
    public function rework(Request $request, ReworkSolid $rework): JsonResponse
    {
        return new JsonResponse($rework(VisibleTurn::of($request)->item, Input::body($request)));
    }

    /** A region grown from a voxel. */
    public function grow(Request $request, GrowRegion $grow): JsonResponse
    {
        return new JsonResponse($grow(VisibleTurn::of($request)->item, Input::body($request)));
    }
}
