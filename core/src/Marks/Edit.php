<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;
use Skeno\Core\Ulid;

/**
 * One small change of one mark, as the bench sends it. `base` is the revision the hand saw (0 before a mark exists); an edit
 * on another revision is a conflict, never a silent overwrite. Create with the base of a deleted mark brings it back (undo).
 *
 * Of a track, `key` changes one key: `{place, key: {geometry?, answers?, hidden?, source?, confidence?} | null}`, its base being the revision of
 * that key, also of one that was taken away; so two hands on different keys never meet. Creating a track makes its first key of `place` and
 * `geometry`.
 *
 * Of a suggestion, named as `mark`, `drop` says `{dropped: bool}`: it is found wrong, or offered again after all. It asks for no base, since the
 * last word counts.
 */
final readonly class Edit
{
    /**
     * @param  array<string, mixed>  $data  the fields of the mark that change: all of them for create
     * @param  int  $seconds  active seconds since the edit before, 0 to 600
     * @param  ?string  $mark  null: what is said of the item as a whole
     * @param  ?int  $codebook  version of the codebook whose words the data use; null: the latest
     * @param  ?string  $suggestion  of a mark that is created: the suggestion a hand has confirmed by it
     * @param  ?MarkSource  $source  of a mark that is created or reshaped: what a hand did it with; null: by hand alone, or as it was
     */
    private function __construct(
        public string $id,
        public EditAction $action,
        public ?string $mark,
        public int $base,
        public array $data,
        public int $seconds,
        public ?int $codebook,
        public ?string $suggestion = null,
        private ?Shape $checked = null,
        public ?MarkSource $source = null,
    ) {
    }

    /**
     * Reads `{id, action, mark, base, data?, seconds?, codebook?, suggestion?, source?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path): self
    {
        $fields = Fields::of($data, $path);
        $action = EditAction::tryFrom($fields->string('action', 20)) ?? throw InvalidValue::at($fields->path('action'), $fields->raw('action'), 'create, change, delete, answer, key or drop');

        $source = $fields->has('source') ? MarkSource::tryFrom($fields->string('source', 20)) : null;
        if ($fields->has('source') && $source?->isOfHand() !== true) {
            throw InvalidValue::at($fields->path('source'), $fields->raw('source'), 'hand, cutout, patches or fitted');
        }

        // benches of earlier versions named the item's sayings by an id; what they kept while offline still arrives
        $ofItem = ($fields->map('data')['kind'] ?? null) === ItemAnswers::KIND;

        return new self(
            Ulid::check($fields->raw('id'), $fields->path('id')),
            $action,
            $ofItem ? null : Ulid::check($fields->raw('mark'), $fields->path('mark')),
            $fields->int('base', 0, PHP_INT_MAX),
            $fields->map('data'),
            min(600, $fields->optionalInt('seconds', 0) ?? 0),
            $fields->optionalInt('codebook', 1),
            $action === EditAction::Create && $fields->has('suggestion') ? Ulid::check($fields->raw('suggestion'), $fields->path('suggestion')) : null,
            source: $source,
        );
    }

    /**
     * Checks the geometry it carries, which may take its time, apart from applying it.
     *
     * @param  ?string  $kind  of the mark as it is stored, for an edit that does not say it
     *
     * @throws InvalidValue
     */
    public function checked(?string $kind): self
    {
        $ofKey = $this->action === EditAction::Key;
        $geometry = $ofKey ? (is_array($this->data['key'] ?? null) ? $this->data['key']['geometry'] ?? null : null) : $this->data['geometry'] ?? null;
        // the keys of a track are of its kind, whatever an edit says
        $word = $ofKey ? $kind : $this->data['kind'] ?? $kind;
        $shape = $this->mark !== null && $geometry !== null && is_string($word) ? Shape::tryFrom($word) : null;
        if ($shape === null) {
            return $this;
        }
        $path = $ofKey ? 'data.key.geometry' : 'data.geometry';
        $shape->geometry(Fields::of($geometry, $path), $path);

        return new self($this->id, $this->action, $this->mark, $this->base, $this->data, $this->seconds, $this->codebook, $this->suggestion, $shape, $this->source);
    }

    /** The same edit in the words of a later codebook. */
    public function translated(Remap $remap): self
    {
        if ($this->action === EditAction::Drop) {
            return $this;
        }

        return new self($this->id, $this->action, $this->mark, $this->base, $this->mark === null ? $remap->saidData($this->data) : ($this->action === EditAction::Key ? $remap->keyData($this->data) : $remap->markData($this->mark, $this->data, $this->checked !== null)), $this->seconds, null, $this->suggestion, $this->checked, $this->source);
    }

    /**
     * Whether the edit fits what is there now.
     *
     * @param  ?int  $revision  of the mark, deleted or not; null when there never was one
     */
    public function fits(?int $revision, bool $deleted): bool
    {
        return $this->action === EditAction::Create
            ? ($revision === null ? $this->base === 0 : $deleted && $this->base === $revision)
            : $revision !== null && ! $deleted && $this->base === $revision;
    }

    /** What it is about, so that what follows on something that was not taken is told: a mark, a key of one, or what is said of the item. */
    public function subject(): string
    {
        return match ($this->action) {
            EditAction::Key => "{$this->mark}@".(is_int($this->data['place'] ?? null) ? $this->data['place'] : ''),
            EditAction::Drop => "drop:{$this->mark}",
            default => (string) $this->mark,
        };
    }

    /** Where on the axis the key lies that it is about. @throws InvalidValue */
    public function place(): int
    {
        return Fields::of($this->data, 'data')->int('place', 0, Places::LIMIT);
    }

    /**
     * The key after the edit; null when it is taken away.
     *
     * @param  Shape  $kind  of the track
     *
     * @throws InvalidValue
     */
    public function key(Shape $kind): ?Key
    {
        $fields = Fields::of($this->data, 'data');

        return $fields->has('key') ? Key::fromArray(['place' => $this->place(), 'revision' => $this->base + 1] + $fields->object('key')->all(), $kind, 'data.key', known: $this->checked === $kind) : null;
    }

    /** Of an edit that drops a suggestion: whether it is dropped, or offered again. @throws InvalidValue */
    public function isDropped(): bool
    {
        return Fields::of($this->data, 'data')->bool('dropped', true);
    }

    /** Whether it is about the item as a whole, not about an object on it. */
    public function isOfItem(): bool
    {
        return $this->mark === null;
    }

    /**
     * The mark after the edit; null when it is deleted.
     *
     * @throws InvalidValue when the data are not a mark
     */
    public function applyTo(?Mark $current): ?Mark
    {
        if ($this->action === EditAction::Delete) {
            return null;
        }
        $before = $current?->toArray() ?? [];
        unset($before['author']);
        $data = array_intersect_key($this->data, array_flip(['class', 'kind', 'geometry', 'answers', 'stack', 'part_of', 'flags', 'place', 'stretches']));
        if ($this->action === EditAction::Answer) {
            $data = ['answers' => $this->answered($before)];
        }

        if ($current?->isTrack() === true) {
            // where it is, and as what, is said by its keys
            $data = array_diff_key($data, ['kind' => null, 'geometry' => null, 'place' => null]);
        }

        $fields = ['id' => $this->mark] + $data + $before;

        return Mark::fromArray($fields, 'data', known: ! isset($data['geometry']) || $this->checked?->value === ($fields['kind'] ?? null));
    }

    /**
     * What is said of the item after the edit; null when it is deleted.
     *
     * @throws InvalidValue
     */
    public function applyToItem(?ItemAnswers $current): ?ItemAnswers
    {
        if ($this->action === EditAction::Delete) {
            return null;
        }
        $before = $current?->toArray() ?? [];
        $data = array_intersect_key($this->data, array_flip(['answers', 'tags', 'stretches']));
        if ($this->action === EditAction::Answer) {
            $data = ['answers' => $this->answered($before)];
        }

        return ItemAnswers::fromArray($data + $before, 'data');
    }

    /**
     * @param  array<string, mixed>  $before
     * @return array<array-key, mixed>
     */
    private function answered(array $before): array
    {
        $fields = Fields::of($this->data, 'data');
        $attribute = $fields->string('attribute', 64);
        $answers = is_array($before['answers'] ?? null) ? $before['answers'] : [];
        unset($answers[$attribute]);
        if ($fields->has('answer')) {
            $answers[$attribute] = Answer::fromArray($fields->raw('answer'), 'data.answer')->toArray();
        }

        return $answers;
    }
}
