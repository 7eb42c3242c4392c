<?php

declare(strict_types=1);

namespace App\Objects;

use App\Items\Keys;
use App\Items\MarkShape;
use App\Models\MarkRow;
use App\Models\User;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Tracks\Key;

/** An object as a list of objects shows it: as it is, or, of a track, as it is at one of its keys. */
final class ObjectAt
{
    private ?Key $key = null;

    private ?int $keys = null;

    private ?string $setBy = null;

    /** @var array<string, Answer> what is said here of what varies */
    private array $varying = [];

    /** @var ?array<string, mixed> the key as the API shows it */
    private ?array $keyShape = null;

    private function __construct(public readonly MarkRow $row, private readonly bool $byKey)
    {
    }

    /** @param  ?int  $place  of a key of it; null: it is shown by its face */
    public static function of(MarkRow $row, ?int $place): self
    {
        if ($place === null) {
            return new self($row, false);
        }
        // the same mark may be in the list once for each of its keys
        $at = clone $row;
        $at->place = $place;

        return new self($at, true);
    }

    /**
     * Reads the keys of those that are tracks.
     *
     * @param  array<array-key, self>  $objects
     */
    public static function read(array $objects): void
    {
        $tracks = array_filter($objects, static fn (self $object): bool => $object->row->stretches !== null && $object->row->place !== null);
        $marks = array_values(array_unique(array_map(static fn (self $object): string => $object->row->id, $tracks)));
        $shapes = Keys::shapesAt(array_map(static fn (self $object): array => [$object->row->id, (int) $object->row->place], array_values($tracks)));
        $counts = Keys::counts($marks);
        $telling = Keys::ofMarks($marks, telling: true);
        $names = User::query()->whereIn('id', array_unique(array_filter(array_map(static fn (array $shape): mixed => $shape[1]['author_id'], $shapes))))->pluck('name', 'id');
        foreach ($tracks as $object) {
            $id = $object->row->id;
            $place = (int) $object->row->place;
            $object->keys = $counts[$id] ?? 0;
            [$object->key, $object->keyShape] = $shapes["{$id}@{$place}"] ?? [null, null];
            if ($object->byKey && $object->key?->geometry !== null) {
                $object->row->geometry = $object->key->geometry->toArray();
            }
            $object->setBy = $names[$object->keyShape['author_id'] ?? 0] ?? null;
            foreach ($telling[$id] ?? [] as $key) {
                if ($key->place <= $place) {
                    $object->varying = $key->answers + $object->varying;
                }
            }
        }
    }

    /** @return array{id: string, mark: array<string, mixed>, key: ?array<string, mixed>, keys: ?int, varying: object, size: ?array{float, float}} */
    public function shape(): array
    {
        return [
            'id' => $this->row->id.($this->byKey ? "@{$this->row->place}" : ''),
            'mark' => MarkShape::of($this->row),
            'key' => $this->keyShape,
            'keys' => $this->keys,
            'varying' => (object) array_map(static fn (Answer $answer): array => $answer->toArray(), $this->varying),
            'size' => $this->size(),
        ];
    }

    /** Address of the square it is shown in. */
    public function crop(int $project): string
    {
        return "/api/v1/projects/{$project}/objects/{$this->row->id}/crop?v={$this->row->revision}".($this->row->stretches === null ? '' : "&place={$this->row->place}&key=".($this->key->revision ?? 0));
    }

    /** Who drew it, by name; of a key who set that. */
    public function author(): ?string
    {
        return $this->byKey && $this->setBy !== null ? $this->setBy : $this->drawnBy();
    }

    private function drawnBy(): ?string
    {
        return $this->row->source === 'import' && $this->row->author_id === null ? 'import' : $this->row->author?->name;
    }

    /** @return ?array{float, float} px */
    private function size(): ?array
    {
        if ($this->byKey) {
            return $this->key?->extent();
        }

        return $this->row->width === null || $this->row->height === null ? null : [$this->row->width, $this->row->height];
    }
}
