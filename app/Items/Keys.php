<?php

declare(strict_types=1);

namespace App\Items;

use App\Models\MarkRow;
use Closure;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\Remap;
use Skeno\Core\Tracks\Face;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeySource;

/** The keys of tracks: a row each, with a revision of its own, so that two hands on different keys never meet. One that was taken away stays as such. */
final class Keys
{
    /** Marks asked for in a statement, and rows written in one. */
    private const CHUNK = 500;

    /** In the very words of the partial index `mark_keys_telling`. */
    private const TELLING = "(mark_keys.faulty = 1 or mark_keys.answers != '{}')";

    /**
     * Keys that stand, of the marks of a layer.
     *
     * @param  bool  $telling  only those that say more than where an object is: that answer something, or are faulty
     * @return array<string, list<Key>> by mark, in order
     */
    public static function ofLayer(int $layer, bool $telling = false): array
    {
        $keys = DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->where('marks.layer_id', $layer)->whereNull('marks.deleted_at');

        return self::read($telling ? $keys->whereRaw(self::TELLING) : $keys);
    }

    /**
     * @param  list<string>  $marks
     * @param  bool  $telling  as of ofLayer
     * @return array<string, list<Key>> by mark, in order
     */
    public static function ofMarks(array $marks, bool $telling = false): array
    {
        $keys = [];
        foreach (array_chunk($marks, self::CHUNK) as $some) {
            $rows = DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->whereIn('mark_id', $some);
            $keys += self::read($telling ? $rows->whereRaw(self::TELLING) : $rows);
        }

        return $keys;
    }

    /**
     * How many keys with a shape marks have.
     *
     * @param  list<string>  $marks
     * @return array<string, int> by mark
     */
    public static function counts(array $marks): array
    {
        $counts = [];
        foreach (array_chunk($marks, self::CHUNK) as $some) {
            $counts += DB::table('mark_keys')->whereIn('mark_id', $some)->whereNull('deleted_at')->whereNotNull('geometry')->groupBy('mark_id')->selectRaw('mark_id, count(*) as n')->pluck('n', 'mark_id')->map(static fn (mixed $n): int => (int) $n)->all();
        }

        return $counts;
    }

    /**
     * Single keys of many marks.
     *
     * @param  list<array{string, int}>  $spots  mark and place
     * @param  bool  $gone  also those that were taken away, for what comes on top of them
     * @return array<string, array{Key, array<string, mixed>}> by `mark@place`: the key, and how the API shows it
     */
    public static function shapesAt(array $spots, bool $gone = false): array
    {
        $found = [];
        foreach (array_chunk($spots, self::CHUNK) as $some) {
            $rows = DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->when(! $gone, static fn (Builder $keys): Builder => $keys->whereNull('mark_keys.deleted_at'))
                ->whereRaw('(mark_keys.mark_id, mark_keys.place) in (values '.implode(', ', array_fill(0, count($some), '(?, ?)')).')', array_merge(...$some))->select('mark_keys.*', 'marks.kind')->get();
            foreach ($rows as $row) {
                $found["{$row->mark_id}@{$row->place}"] = [self::key($row, (string) $row->kind), self::shape($row)];
            }
        }

        return $found;
    }

    /** @return array<string, list<Key>> */
    private static function read(Builder $rows): array
    {
        $keys = [];
        foreach ($rows->whereNull('mark_keys.deleted_at')->orderBy('mark_keys.mark_id')->orderBy('mark_keys.place')->select('mark_keys.*', 'marks.kind')->get() as $row) {
            $keys[(string) $row->mark_id][] = self::key($row, (string) $row->kind);
        }

        return $keys;
    }

    private static function key(object $row, string $kind): Key
    {
        $data = (array) $row;

        return Key::fromArray([
            'place' => (int) $data['place'], 'geometry' => json_decode((string) $data['geometry'], true), 'answers' => json_decode((string) $data['answers'], true) ?: null, 'hidden' => (bool) $data['hidden'],
            'source' => $data['source'], 'confidence' => $data['confidence'], 'revision' => (int) $data['revision'],
        ], Shape::from($kind), known: true);
    }

    /** How the API shows the keys of a layer. @return list<array<string, mixed>> */
    public static function shapes(int $layer): array
    {
        $shapes = [];
        $rows = DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->where('marks.layer_id', $layer)->whereNull('marks.deleted_at')->whereNull('mark_keys.deleted_at')
            ->orderBy('mark_keys.mark_id')->orderBy('mark_keys.place')->select('mark_keys.*')->get();
        foreach ($rows as $row) {
            $shapes[] = self::shape($row);
        }

        return $shapes;
    }

    /** @return array<string, mixed> */
    private static function shape(object $row): array
    {
        $data = (array) $row;

        return [
            'mark' => $data['mark_id'], 'place' => (int) $data['place'], 'revision' => (int) $data['revision'], 'deleted' => $data['deleted_at'] !== null,
            'geometry' => $data['geometry'] === null ? null : (object) json_decode((string) $data['geometry'], true), 'answers' => (object) json_decode((string) $data['answers'], true),
            'hidden' => (bool) $data['hidden'], 'source' => $data['source'], 'confidence' => $data['confidence'] === null ? null : (float) $data['confidence'], 'author_id' => $data['author_id'],
        ];
    }

    /**
     * How the API shows a key of another time.
     *
     * @param  array<string, mixed>  $key  as the core writes it
     * @return array<string, mixed>
     */
    public static function shown(string $mark, array $key): array
    {
        return [
            'mark' => $mark, 'place' => $key['place'], 'revision' => 0, 'deleted' => false, 'geometry' => isset($key['geometry']) ? (object) $key['geometry'] : null, 'answers' => (object) ($key['answers'] ?? []),
            'hidden' => $key['hidden'] ?? false, 'source' => $key['source'] ?? KeySource::Hand->value, 'confidence' => $key['confidence'] ?? null, 'author_id' => null,
        ];
    }

    /** @return ?array<string, mixed> a key as the API shows it, also one that was taken away */
    public static function shapeAt(string $mark, int $place): ?array
    {
        $row = self::row($mark, $place);

        return $row === null ? null : self::shape($row);
    }

    public static function at(MarkRow $mark, int $place): ?Key
    {
        $row = self::row($mark->id, $place);

        return $row === null || $row->deleted_at !== null ? null : self::key($row, $mark->kind);
    }

    /** The revision of a key, also of one that was taken away; 0 where there never was one. */
    public static function revision(string $mark, int $place): int
    {
        return (int) (self::row($mark, $place)->revision ?? 0);
    }

    private static function row(string $mark, int $place): ?\stdClass
    {
        /** @var ?\stdClass */
        return DB::table('mark_keys')->where('mark_id', $mark)->where('place', $place)->first();
    }

    public static function has(string $mark): bool
    {
        return DB::table('mark_keys')->where('mark_id', $mark)->exists();
    }

    /**
     * Writes keys as they are to be, with their revisions, and keeps the face of the mark.
     *
     * @param  list<Key>  $keys
     * @param  ?Closure(Key): bool  $faulty  whether the check finds something about one
     */
    public static function write(MarkRow $mark, array $keys, ?int $author, ?Closure $faulty = null): void
    {
        $isFace = self::mayBeFace($mark, $keys);
        foreach (array_chunk($keys, self::CHUNK) as $some) {
            DB::table('mark_keys')->upsert(array_map(static fn (Key $key): array => [
                'mark_id' => $mark->id, 'place' => $key->place, 'geometry' => $key->geometry === null ? null : self::json($key->geometry->toArray()),
                'answers' => self::json((object) ($key->toArray()['answers'] ?? [])), 'hidden' => $key->hidden, 'source' => $key->source->value, 'confidence' => $key->confidence,
                'size' => Face::size($key->geometry), 'faulty' => $faulty !== null && $faulty($key), 'author_id' => $author, 'revision' => $key->revision, 'deleted_at' => null, 'created_at' => now(), 'updated_at' => now(),
            ], $some), ['mark_id', 'place'], ['geometry', 'answers', 'hidden', 'source', 'confidence', 'size', 'faulty', 'author_id', 'revision', 'deleted_at', 'updated_at']);
        }
        if ($isFace) {
            self::face($mark);
        }
    }

    /** Whether another key may become the face when these are written; most are not seen better than it. @param  list<Key>  $keys */
    private static function mayBeFace(MarkRow $mark, array $keys): bool
    {
        $face = $mark->place === null ? null : self::row($mark->id, $mark->place);
        if ($face === null || $face->deleted_at !== null || (bool) $face->hidden) {
            return true;
        }
        foreach ($keys as $key) {
            if ($key->place === $mark->place || (! $key->hidden && Face::size($key->geometry) >= (float) $face->size)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Writes the keys of marks that are new.
     *
     * @param  array<array-key, Mark>  $marks
     * @param  Closure(Key, Mark): bool  $faulty  whether the check finds something about one
     */
    public static function insert(array $marks, Closure $faulty): void
    {
        $rows = [];
        foreach ($marks as $mark) {
            foreach ($mark->keys as $key) {
                $rows[] = [
                    'mark_id' => $mark->id, 'place' => $key->place, 'geometry' => $key->geometry === null ? null : self::json($key->geometry->toArray()), 'answers' => self::json((object) ($key->toArray()['answers'] ?? [])),
                    'hidden' => $key->hidden, 'source' => $key->source->value, 'confidence' => $key->confidence, 'size' => Face::size($key->geometry), 'faulty' => $faulty($key, $mark), 'revision' => 1, 'created_at' => now(), 'updated_at' => now(),
                ];
            }
        }
        foreach (array_chunk($rows, self::CHUNK) as $some) {
            DB::table('mark_keys')->insert($some);
        }
    }

    /** Takes a key away. */
    public static function remove(MarkRow $mark, int $place, int $revision, ?int $author): void
    {
        $wasFace = $mark->place === $place;
        DB::table('mark_keys')->where('mark_id', $mark->id)->where('place', $place)->update(['deleted_at' => now(), 'updated_at' => now(), 'revision' => $revision, 'author_id' => $author]);
        if ($wasFace) {
            self::face($mark);
        }
    }

    /** What a track is shown by where there is one picture of it; when no key with a shape is left, the last one stays. */
    private static function face(MarkRow $mark): void
    {
        $best = DB::table('mark_keys')->where('mark_id', $mark->id)->whereNull('deleted_at')->whereNotNull('geometry')->orderBy('hidden')->orderByDesc('size')->orderBy('place')->first(['place', 'geometry']);
        if ($best !== null) {
            $mark->place = (int) $best->place;
            $mark->geometry = json_decode((string) $best->geometry, true);
            $mark->save();
        }
    }

    /**
     * Copies the keys of marks onto the copies of those.
     *
     * @param  array<string, string>  $ids  id of the copy by id of the mark
     */
    public static function copy(array $ids): void
    {
        foreach (array_chunk(array_keys($ids), self::CHUNK) as $some) {
            foreach (array_chunk(DB::table('mark_keys')->whereIn('mark_id', $some)->whereNull('deleted_at')->get()->all(), self::CHUNK) as $rows) {
                DB::table('mark_keys')->insert(array_map(static fn (object $row): array => ['mark_id' => $ids[((array) $row)['mark_id']], 'revision' => 1, 'created_at' => now(), 'updated_at' => now()] + (array) $row, $rows));
            }
        }
    }

    /**
     * Brings the keys of a copy back to the mark it was made of: those that were changed on it, added or taken away.
     *
     * @return bool whether there was anything
     */
    public static function merge(MarkRow $copy, MarkRow $into): bool
    {
        $there = DB::table('mark_keys')->where('mark_id', $into->id)->get()->keyBy('place');
        $changed = false;
        foreach (DB::table('mark_keys')->where('mark_id', $copy->id)->get() as $row) {
            $own = $there->get($row->place);
            $isGone = $row->deleted_at !== null;
            if ($row->revision === 1 && ! $isGone && $own !== null || $isGone && ($own === null || $own->deleted_at !== null)) {
                continue;
            }
            $changed = true;
            DB::table('mark_keys')->upsert([['mark_id' => $into->id, 'revision' => ($own->revision ?? 0) + 1, 'created_at' => now(), 'updated_at' => now()] + (array) $row], ['mark_id', 'place'], ['geometry', 'answers', 'hidden', 'source', 'confidence', 'size', 'faulty', 'author_id', 'revision', 'deleted_at', 'updated_at']);
        }
        if ($changed) {
            self::face($into);
        }

        return $changed;
    }

    /**
     * Puts the keys of tracks into the words of a new codebook. Their revisions stay: a hand that knows them from before is translated itself.
     *
     * @param  array<string, string>  $classes  of tracks, as they were, by mark
     */
    public static function rewrite(array $classes, Remap $remap): void
    {
        foreach (self::ofMarks(array_keys($classes)) as $mark => $keys) {
            foreach ($keys as $key) {
                $after = $remap->key($classes[$mark], $key);
                $place = DB::table('mark_keys')->where('mark_id', $mark)->where('place', $key->place);
                if ($after === null) {
                    $place->update(['deleted_at' => now(), 'updated_at' => now(), 'revision' => DB::raw('revision + 1')]);
                } elseif ($after->toArray() !== $key->toArray()) {
                    $place->update(['geometry' => $after->geometry === null ? null : self::json($after->geometry->toArray()), 'answers' => self::json((object) ($after->toArray()['answers'] ?? [])), 'updated_at' => now()]);
                }
            }
        }
    }

    private static function json(mixed $data): string
    {
        return json_encode($data, JSON_PRESERVE_ZERO_FRACTION | JSON_THROW_ON_ERROR);
    }
}
