<?php

declare(strict_types=1);

namespace App\Work;

use App\Items\LayerCopy;
use App\Items\Layers;
use App\Models\MarkRow;
use App\Models\Turn;
use App\Models\User;
use Skeno\Core\Marks\LayerKind;

/** A pass on top of accepted labels: it works on a copy, and what it made becomes the agreed labels when it is accepted. */
final class Drafts
{
    /** The copy is made when the pass is first opened or loaded ahead, and once: a draft with one has something said on it from then on. */
    public static function begin(Turn $turn): void
    {
        $draft = $turn->layer;
        if ($draft->kind !== LayerKind::Draft || $draft->revision > 0 || $turn->stage->decides()) {
            return;
        }
        $agreed = Layers::agreed($turn->item_id);
        LayerCopy::marks(MarkRow::query()->where('layer_id', $agreed->id)->whereNull('deleted_at')->orderBy('id')->get(), $draft, 'copy', null, origins: true);
        LayerCopy::said($agreed, $draft, 'copy', null);
    }

    /** The pass has been accepted. */
    public static function settle(Turn $turn, User $by): void
    {
        if ($turn->layer->kind === LayerKind::Draft) {
            LayerCopy::merge($turn->layer, Layers::agreed($turn->item_id), 'settle', $by);
        }
    }
}
