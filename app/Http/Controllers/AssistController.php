<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Help\FitSkeleton;
use App\Http\Input;
use App\Http\VisibleTurn;
use App\Work\Between;
use App\Work\Compute;
use App\Work\CutAgain;
use App\Work\CutFromBox;
use App\Work\FitTrack;
use App\Work\FollowCuboid;
use App\Work\FollowTrack;
use App\Work\MakePatches;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Fields;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** What the bench has worked out for the hand: nothing is stored by it. */
final class AssistController
{
    /** A shape made from another, or what is to be seen around it. */
    public function compute(Request $request, Compute $compute): JsonResponse
    {
        return new JsonResponse($compute(VisibleTurn::of($request), Input::body($request)));
    }

    /** What lies between two keys of a track, where the bench can't tell by itself. */
    public function between(Request $request): JsonResponse
    {
        VisibleTurn::of($request);

        return new JsonResponse(['shapes' => Between::of(Input::body($request))]);
    }

    /** The outline of what is in a rough box. */
    public function cutOut(Request $request, CutFromBox $cutOut): JsonResponse
    {
        return new JsonResponse($cutOut(VisibleTurn::of($request), Input::body($request), Input::actor($request)->user->id));
    }

    /** The nodes of a skeleton, by what accepted ones look like. */
    public function fitSkeleton(Request $request, FitSkeleton $fit): JsonResponse
    {
        return new JsonResponse($fit(VisibleTurn::of($request)->item, Input::body($request)));
    }

    /** The outline of an object on later frames. */
    public function cutAgain(Request $request, CutAgain $cutAgain): JsonResponse
    {
        return new JsonResponse($cutAgain(VisibleTurn::of($request)->item, Input::body($request)));
    }

    /** Small regions of the picture that follow its edges. */
    public function patches(Request $request, MakePatches $patches): BinaryFileResponse
    {
        $in = [];
        foreach ($request->query() as $name => $value) {
            // what is no whole number is refused by its name
            $in[$name] = is_string($value) && preg_match('/^\d{1,9}$/D', $value) === 1 ? (int) $value : $value;
        }

        return new BinaryFileResponse($patches(VisibleTurn::of($request)->item, Fields::of($in)), 200, [
            'Content-Type' => 'application/octet-stream', 'Content-Encoding' => 'gzip', 'Cache-Control' => 'private, max-age=31536000, immutable',
        ]);
    }

    /** Follows an object over some frames: of a clip by its looks, of a cloud by its points. */
    public function follow(Request $request, FollowTrack $clip, FollowCuboid $cloud): JsonResponse
    {
        $item = VisibleTurn::of($request)->item;

        return new JsonResponse($item->kind === 'cloud' ? $cloud($item, Input::body($request)) : $clip($item, Input::body($request)));
    }

    /** Where what lies between the keys of a track fits the frames worst. */
    public function fit(Request $request, FitTrack $fit): JsonResponse
    {
        return new JsonResponse($fit(VisibleTurn::of($request)->item, Input::body($request)));
    }

    /** Which of what was found on many frames have to be keys. */
    public function thin(Request $request): JsonResponse
    {
        VisibleTurn::of($request);

        return new JsonResponse(['places' => FollowTrack::keys(Input::body($request))]);
    }
}
