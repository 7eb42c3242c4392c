<?php

declare(strict_types=1);

namespace App\Items;

use App\Files\AssetStore;
use App\Files\Pass;
use App\Models\Item;
use Skeno\Core\Imaging\TilePyramid;

/** An item as the API shows it. */
final class ItemShape
{
    /** @return array<string, mixed> */
    public static function of(Item $item): array
    {
        $picture = "/api/v1/projects/{$item->project_id}/items/{$item->id}/picture?v=".substr($item->asset->sha256, 0, 8);

        return [
            'id' => $item->id,
            'kind' => $item->kind,
            'path' => $item->path,
            'name' => basename($item->path),
            'set' => $item->set->path,
            'width' => $item->asset->width,
            'height' => $item->asset->height,
            'state' => $item->state->value,
            'labelled' => $item->labelled()->value,
            'mark_count' => $item->mark_count,
            'picture' => ['thumb' => $item->kind === 'text' ? "{$picture}&size=thumb" : Pass::on("{$picture}&size=thumb", AssetStore::derivedPath($item->asset->sha256, 'thumb'), storage_path()), 'screen' => "{$picture}&size=screen", 'full' => "{$picture}&size=full", 'tiles' => self::tiles($item)],
            'clip' => self::clip($item),
            'text' => self::text($item),
            'document' => self::document($item),
            'volume' => self::volume($item),
            'cloud' => self::cloud($item),
        ];
    }

    /** @return ?array<string, mixed> of a clip: what it is, and where its files lie (`{path}/index.json?{query}`) */
    private static function clip(Item $item): ?array
    {
        $facts = $item->asset->facts;

        return $item->kind !== 'clip' ? null : array_intersect_key($facts, array_flip(['frames', 'rate', 'duration', 'variable', 'sound', 'codec'])) + ['format' => $item->asset->format, 'path' => "/api/v1/projects/{$item->project_id}/items/{$item->id}/clip", 'query' => 'v='.substr($item->asset->sha256, 0, 8)];
    }

    /** @return ?array<string, mixed> of a document: its pages by their sizes (`[width, height, how many]` in a row), and where each lies as a picture (`{path}&place=3&size=screen`) */
    private static function document(Item $item): ?array
    {
        $facts = $item->asset->facts;

        return $item->kind !== 'document' ? null : ['pages' => $item->places(), 'sheets' => $facts['sheets'] ?? [], 'resolution' => $facts['resolution'] ?? 0, 'format' => $item->asset->format, 'path' => "/api/v1/projects/{$item->project_id}/items/{$item->id}/picture?v=".substr($item->asset->sha256, 0, 8)];
    }

    /** @return ?array<string, mixed> of a volume: its slices, where they lie in a body, and where its planes are (`{path}/xy.bin?{query}`) */
    private static function volume(Item $item): ?array
    {
        $facts = $item->asset->facts;

        return $item->kind !== 'volume' ? null : ['slices' => $item->places(), 'spacing' => $facts['spacing'] ?? [], 'letters' => $facts['letters'] ?? null, 'format' => $item->asset->format, 'path' => "/api/v1/projects/{$item->project_id}/items/{$item->id}/volume", 'query' => 'v='.substr($item->asset->sha256, 0, 8)];
    }

    /** @return ?array<string, mixed> of a cloud: its frames with the number of points in each, and where its files are (`{path}/0.bin?{query}`) */
    private static function cloud(Item $item): ?array
    {
        $facts = $item->asset->facts;

        return $item->kind !== 'cloud' ? null : ['frames' => $item->places(), 'points' => $facts['points'] ?? [], 'least' => $facts['least'] ?? [], 'most' => $facts['most'] ?? [], 'cameras' => self::cameras($facts['rig'] ?? null), 'format' => $item->asset->format, 'path' => "/api/v1/projects/{$item->project_id}/items/{$item->id}/cloud", 'query' => 'v='.substr($item->asset->sha256, 0, 8)];
    }

    /** @return list<array<string, mixed>> of a cloud: each with how its picture of each frame ends, empty where there is none; the third of the fourth frame is `3-2.jpg` */
    private static function cameras(mixed $rig): array
    {
        $cameras = [];
        // (what is stored was looked at when it came; a list shows many items)
        foreach (is_array($rig) && is_array($rig['cameras'] ?? null) ? $rig['cameras'] : [] as $n => $camera) {
            $cameras[] = (array) $camera + ['pictures' => $rig['pictures'][$n] ?? []];
        }

        return $cameras;
    }

    /** @return ?array<string, mixed> of a text: how long it is, in code points, how it came, and where it lies */
    private static function text(Item $item): ?array
    {
        return $item->kind !== 'text' ? null : ['length' => $item->extent()->length, 'encoding' => $item->asset->facts['encoding'] ?? 'UTF-8', 'format' => $item->asset->format, 'path' => "/api/v1/projects/{$item->project_id}/items/{$item->id}/text?v=".substr($item->asset->sha256, 0, 8)];
    }

    /** @return ?array{path: string, query: string, side: int, levels: int} of a picture that is loaded in tiles: `{path}/{level}/{column}/{row}?{query}` */
    private static function tiles(Item $item): ?array
    {
        $tiles = in_array($item->kind, ['text', 'document', 'volume', 'cloud'], true) ? null : TilePyramid::of($item->asset->width, $item->asset->height);
        if ($tiles === null) {
            return null;
        }
        $path = "/api/v1/projects/{$item->project_id}/items/{$item->id}/tiles";
        $query = parse_url(Pass::on("{$path}?v=".substr($item->asset->sha256, 0, 8), AssetStore::tilesPath($item->asset->sha256), storage_path()), PHP_URL_QUERY);

        return ['path' => $path, 'query' => (string) $query, 'side' => TilePyramid::SIDE, 'levels' => count($tiles->levels)];
    }
}
