<?php

declare(strict_types=1);

namespace App\Work;

use App\Models\MarkRow;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/** The marks that stand in one layer of an item. */
final class Layer
{
    public const SUGGESTIONS = 'suggestions';

    /** What is said of an item as a whole in a layer. */
    public static function said(int $item, string $layer): ItemAnswers
    {
        $row = MarkRow::query()->whereKey(ItemAnswers::id($item, $layer))->whereNull('deleted_at')->first();

        return $row === null ? ItemAnswers::none() : $row->said();
    }

    /** @return list<Mark> in order of age */
    public static function marks(int $item, string $layer): array
    {
        return array_values(MarkRow::query()->where('item_id', $item)->where('layer', $layer)->where('kind', '!=', ItemAnswers::KIND)->whereNull('deleted_at')->orderBy('id')->get()->map(static fn (MarkRow $row): Mark => $row->mark())->all());
    }
}
