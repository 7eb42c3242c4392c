<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\SuggestedWord;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Marks\LayerKind;

/** What is suggested on items: objects, and words about the item as a whole; offered to the layer a hand works on until it is decided there. */
final class Suggested
{
    /** @param  list<Saying>  $sayings */
    public static function say(Layer $layer, array $sayings): void
    {
        $rows = array_map(static fn (Saying $saying): array => ['id' => strtoupper((string) Str::ulid()), 'project_id' => $layer->project_id, 'item_id' => $layer->item_id, 'layer_id' => $layer->id, 'key' => $saying->key, 'answer' => $saying->answer === null ? null : json_encode($saying->answer->toArray(), JSON_THROW_ON_ERROR), 'confidence' => $saying->confidence, 'created_at' => now()], $sayings);
        foreach (array_chunk($rows, 100) as $some) {
            DB::table('suggested_words')->insert($some);
        }
    }

    /** All words that these layers suggest go. @param  list<int>  $layers @return int how many */
    public static function unsay(array $layers): int
    {
        return DB::table('suggested_words')->whereIn('layer_id', $layers)->whereNull('deleted_at')->update(['deleted_at' => now()]);
    }

    /**
     * Marks that no mark of the layer stands for, and that were not found wrong there.
     *
     * @return Collection<int, MarkRow> in order of age
     */
    public static function marks(int $item, int $layer): Collection
    {
        return MarkRow::query()->where('item_id', $item)->where('layer', LayerKind::Suggestion)->whereNull('deleted_at')
            ->whereNotExists(static fn ($confirmed) => $confirmed->from('marks as confirmed')->whereColumn('confirmed.suggestion_id', 'marks.id')->where('confirmed.layer_id', $layer)->whereNull('confirmed.deleted_at'))
            ->whereNotExists(static fn ($dropped) => $dropped->from('suggestion_drops')->whereColumn('suggestion_drops.suggestion_id', 'marks.id')->where('suggestion_drops.layer_id', $layer))->orderBy('id')->get();
    }

    /**
     * Words that are offered to a layer: of every tag and question the newest, unless it was found wrong there; what the codebook has no word for any
     * more is left out. Whether it has been said already the bench sees for itself.
     *
     * @return list<array{id: string, key: string, answer: ?array<string, mixed>, confidence: ?float}>
     */
    public static function words(int $item, int $layer, Codebook $codebook): array
    {
        $tags = array_map(static fn ($tag): string => $tag->key, $codebook->itemTags());
        $questions = [];
        foreach ($codebook->itemAttributes() as $question) {
            $questions[$question->key] = $question;
        }
        $dropped = DB::table('suggestion_drops')->where('layer_id', $layer)->pluck('suggestion_id')->flip()->all();
        $offered = [];
        foreach (SuggestedWord::query()->where('item_id', $item)->whereNull('deleted_at')->orderByDesc('id')->get() as $word) {
            $about = ($word->answer === null ? 'tag:' : 'question:').$word->key;
            $known = $word->answer === null ? in_array($word->key, $tags, true) : ($questions[$word->key] ?? null)?->objection(Answer::fromArray($word->answer, 'answer')) === null && isset($questions[$word->key]);
            if ($known && ! array_key_exists($about, $offered)) {
                $offered[$about] = isset($dropped[$word->id]) ? null : ['id' => $word->id, 'key' => $word->key, 'answer' => $word->answer, 'confidence' => $word->confidence];
            }
        }

        return array_values(array_filter($offered));
    }
}
