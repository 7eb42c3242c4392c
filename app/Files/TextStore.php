<?php

declare(strict_types=1);

namespace App\Files;

use App\Models\Asset;
use App\Models\StoredText;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Storage;
use Skeno\Core\Text\Portrait;
use Skeno\Core\Text\Text;

/** Texts by the hash of what they say, and the small pictures of them for lists. */
final class TextStore
{
    /** Bytes of a text at most. */
    public static function most(): int
    {
        return config()->integer('skeno.text.max_bytes');
    }

    public function of(Asset $asset): Text
    {
        return StoredText::query()->findOrFail($asset->id)->text();
    }

    /** What an asset is known by: the words, and the tokens they came with. */
    public static function hash(Text $text): string
    {
        return hash('sha256', $text->body.($text->tokens === null ? '' : "\0".json_encode($text->tokens->toArray())));
    }

    /** @return array<string, mixed> the row of an asset */
    public static function row(Text $text, string $format, string $encoding): array
    {
        return [
            'kind' => 'text', 'bytes' => strlen($text->body), 'format' => $format, 'width' => 0, 'height' => 0, 'orientation' => 1, 'depth' => 8, 'color_space' => '',
            'facts' => ['length' => $text->length, 'encoding' => $encoding] + ($text->tokens === null ? [] : ['tokens' => $text->tokens->count()]),
        ];
    }

    /**
     * Keeps texts of assets whose rows have just been written, in the same transaction.
     *
     * @param  array<int, Text>  $texts  by asset
     */
    public static function keep(array $texts): void
    {
        $rows = [];
        foreach ($texts as $asset => $text) {
            $rows[] = ['asset_id' => $asset, 'body' => $text->body, 'tokens' => $text->tokens === null ? null : json_encode($text->tokens->toArray())];
        }
        DB::table('texts')->insertOrIgnore($rows);
    }

    /** Its beginning as a small picture, for lists. */
    public function thumb(Asset $asset): string
    {
        $target = Storage::disk('derived')->path(AssetStore::path($asset->sha256).'-thumb.svg');
        if (! is_file($target)) {
            if (! is_dir(dirname($target))) {
                @mkdir(dirname($target), 0o770, true);
            }
            $begin = DB::table('texts')->where('asset_id', $asset->id)->selectRaw('substr(body, 1, 600) as begin')->value('begin');
            $temporary = dirname($target).'/'.bin2hex(random_bytes(6)).'.svg';
            file_put_contents($temporary, Portrait::ofText(is_string($begin) ? $begin : ''));
            rename($temporary, $target);
        }

        return $target;
    }
}
