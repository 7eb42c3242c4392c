<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Closure;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/**
 * Documents in a format of pictures: each page is one, `document/0003.jpg`, counted from 0, with the marks on it, what is said of the page, and
 * what is said of the whole document.
 */
final class PagePictures
{
    /**
     * The dataset with the pages of each document in its place; other items stay as they are.
     *
     * @param  Closure(DatasetItem, int): string  $draw  of a document and a place: a file with that page as a JPEG
     */
    public static function of(Dataset $dataset, Closure $draw): Dataset
    {
        /** @var \ArrayObject<string, DatasetItem> $open */
        $open = new \ArrayObject;

        return new Dataset($dataset->name, $dataset->codebook, static function () use ($dataset, $open): iterable {
            foreach ($dataset->items() as $item) {
                if ($item->sheets === null) {
                    yield $item;

                    continue;
                }
                $open['document'] = $item;
                yield from self::pages($item, $item->sheets);
            }
        }, static function (DatasetItem $item) use ($dataset, $draw, $open): string {
            // (a picture is asked for while its document is the one gone through)
            $document = $open['document'] ?? null;

            return $item->page === null || $document === null ? $dataset->pictureFile($item) : $draw($document, $item->page);
        }, $dataset->clips(...));
    }

    /** @return iterable<DatasetItem> */
    private static function pages(DatasetItem $item, Sheets $sheets): iterable
    {
        $stem = (string) preg_replace('/\.(pdf|tiff?)$/i', '', $item->path);
        $marks = $said = [];
        foreach ($item->marks as $mark) {
            if ($mark->place !== null) {
                $marks[$mark->place][] = $mark;
            }
        }
        foreach ($item->said->stretches as $stretch) {
            for ($page = $stretch->first; $page <= min($stretch->last, $sheets->count - 1); $page++) {
                $said[$page][] = $stretch;
            }
        }
        for ($page = 0; $page < $sheets->count; $page++) {
            [$width, $height] = $sheets->size($page);
            $answers = $item->said->answers;
            $tags = $item->said->tags;
            foreach ($said[$page] ?? [] as $stretch) {
                if ($stretch->answer === null) {
                    $tags[] = $stretch->key;
                } else {
                    $answers[$stretch->key] = $stretch->answer;
                }
            }
            $own = $marks[$page] ?? [];
            $ids = array_fill_keys(array_map(static fn (Mark $mark): string => $mark->id, $own), true);
            // what is a part of something on another page is no part of anything on this one
            $own = array_map(static fn (Mark $mark): Mark => ($mark->partOf === null || isset($ids[$mark->partOf]) ? $mark : $mark->copy($mark->id, null))->on(null), $own);
            $labelled = $own !== [] ? Labelled::Objects : ($item->labelled === Labelled::Unlabelled ? Labelled::Unlabelled : Labelled::Nothing);
            yield new DatasetItem(sprintf('%s/%04d.jpg', $stem, $page), $width, $height, hash('sha256', "{$item->hash} {$page}"), $labelled, $own, $item->part, $item->state, 1, ItemAnswers::of($answers, $tags), page: $page);
        }
    }
}
