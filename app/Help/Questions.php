<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\AttributeType;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Scope;
use Skeno\Core\Learn\Then;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Quality\Looks;

/** Questions that can be answered by looks, with the answers accepted items give, and what the objects and pictures they are about look like. */
final class Questions
{
    /**
     * @param  list<int>  $items
     * @return array<string, array{one: bool, answers: list<array{Looks, list<string>, int}>}> by name; each answer with the item it is of
     */
    public function of(Codebook $codebook, array $items): array
    {
        $questions = [];
        foreach ($codebook->attributes as $attribute) {
            if (in_array($attribute->type, [AttributeType::One, AttributeType::YesNo], true)) {
                $questions[($attribute->scope === Scope::Object ? Then::OF_OBJECT : Then::OF_PICTURE).$attribute->key] = ['one' => true, 'answers' => []];
            }
        }
        if ($codebook->tags !== []) {
            $questions[Then::TAGS] = ['one' => false, 'answers' => []];
        }
        foreach (array_chunk($items, 200) as $some) {
            foreach ([...$this->objects($some), ...$this->pictures($some)] as [$name, $looks, $options, $item]) {
                if (isset($questions[$name])) {
                    $questions[$name]['answers'][] = [$looks, $options, $item];
                }
            }
        }

        return $questions;
    }

    /**
     * @param  list<int>  $items
     * @return list<array{string, Looks, list<string>, int}>
     */
    private function objects(array $items): array
    {
        $said = [];
        $marks = MarkRow::query()->whereIn('item_id', $items)->where('layer', LayerKind::Agreed)->whereNull('deleted_at')->where('answers', '!=', '{}')->join('looks', 'looks.mark_id', '=', 'marks.id')->orderBy('marks.id')->get(['marks.id', 'marks.item_id', 'marks.answers', 'looks.vector']);
        foreach ($marks as $mark) {
            $looks = Looks::unpack((string) $mark->getAttribute('vector'));
            foreach ($mark->answers as $key => $answer) {
                $option = self::option(is_array($answer) ? $answer['value'] ?? null : null);
                if ($option !== null) {
                    $said[] = [Then::OF_OBJECT.$key, $looks, [$option], $mark->item_id];
                }
            }
        }

        return $said;
    }

    /**
     * @param  list<int>  $items
     * @return list<array{string, Looks, list<string>, int}>
     */
    private function pictures(array $items): array
    {
        $said = [];
        $vectors = DB::table('items')->join('picture_looks', 'picture_looks.asset_id', '=', 'items.asset_id')->whereIn('items.id', $items)->where('picture_looks.vector', '!=', '')->pluck('picture_looks.vector', 'items.id');
        foreach (Layer::query()->whereIn('item_id', $items)->where('kind', LayerKind::Agreed)->orderBy('item_id')->get(['id', 'item_id', 'answers', 'tags']) as $layer) {
            $vector = $vectors->get($layer->item_id);
            if (! is_string($vector)) {
                continue;
            }
            $looks = Looks::unpack($vector);
            foreach ($layer->answers as $key => $answer) {
                $option = self::option(is_array($answer) ? $answer['value'] ?? null : null);
                if ($option !== null) {
                    $said[] = [Then::OF_PICTURE.$key, $looks, [$option], $layer->item_id];
                }
            }
            $said[] = [Then::TAGS, $looks, $layer->tags, $layer->item_id];
        }

        return $said;
    }

    private static function option(mixed $value): ?string
    {
        return is_bool($value) ? ($value ? 'yes' : 'no') : (is_string($value) ? $value : null);
    }
}
