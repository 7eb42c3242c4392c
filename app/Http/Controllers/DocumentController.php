<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Documents\Readings;
use App\Documents\Words;
use App\Http\Input;
use App\Http\ShownItem;
use App\Models\Item;
use App\Models\Reading;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Ability;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** The words on the pages of documents, and how far their reading is. */
final class DocumentController
{
    /** The words of one page, read now where nobody has: `place`. */
    public function words(Request $request, Words $words): JsonResponse
    {
        $item = $this->document($request);
        $place = $request->query('place', '0');
        $pages = $item->places() ?? 0;
        if (! is_string($place) || ! ctype_digit($place) || strlen($place) > 7 || (int) $place >= $pages) {
            throw InvalidValue::at('place', $place, 'a page from 0 to '.($pages - 1));
        }
        $found = $words->of($item->asset, (int) $place);

        return new JsonResponse(['place' => (int) $place, 'source' => $found['source'], 'reason' => $found['reason'], 'words' => $found['words']->toArray()], 200, [], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
    }

    public function reading(Request $request): JsonResponse
    {
        return $this->answer($request, Readings::of($this->document($request)->asset));
    }

    public function cancel(Request $request): JsonResponse
    {
        return $this->answer($request, Readings::cancel($this->read($request)));
    }

    public function retry(Request $request): JsonResponse
    {
        return $this->answer($request, Readings::retry($this->read($request)));
    }

    private function answer(Request $request, ?Reading $reading): JsonResponse
    {
        return new JsonResponse(['data' => self::shape($reading), 'manages' => Input::actor($request)->may(Ability::ManageProject, Input::project($request))]);
    }

    private function read(Request $request): Reading
    {
        return Readings::of($this->document($request)->asset) ?? throw new NotFoundHttpException('this document brought its words: nothing is read');
    }

    private function document(Request $request): Item
    {
        $item = ShownItem::of($request);

        return $item->kind === 'document' ? $item : throw new NotFoundHttpException('this item is no document');
    }

    /** @return ?array<string, mixed> */
    private static function shape(?Reading $reading): ?array
    {
        return $reading === null ? null : ['state' => $reading->state, 'done' => $reading->done, 'total' => $reading->total, 'error' => $reading->error];
    }
}
