<?php

declare(strict_types=1);

namespace Skeno\Core\Marks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * One small change of one mark, as the bench sends it. `base` is the revision the hand saw (0 before a mark exists); an edit
 * on another revision is a conflict, never a silent overwrite. Create with the base of a deleted mark brings it back (undo).
 */
final readonly class Edit
{
    /**
     * @param  array<string, mixed>  $data  the fields of the mark that change: all of them for create
     * @param  int  $seconds  active seconds since the edit before, 0 to 600
     * @param  ?string  $mark  null: what is said of the item as a whole
     * @param  ?int  $codebook  version of the codebook whose words the data use; null: the latest
     * @param  ?string  $suggestion  of a mark that is created: the suggestion a hand has confirmed by it
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
    ) {
    }

    /**
     * Reads `{id, action, mark, base, data?, seconds?, codebook?, suggestion?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path): self
    {
        $fields = Fields::of($data, $path);
        $action = EditAction::tryFrom($fields->string('action', 20)) ?? throw InvalidValue::at($fields->path('action'), $fields->raw('action'), 'create, change, delete or answer');

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
        $word = $this->data['kind'] ?? $kind;
        $shape = $this->mark !== null && isset($this->data['geometry']) && is_string($word) ? Shape::tryFrom($word) : null;
        if ($shape === null) {
            return $this;
        }
        $shape->geometry(Fields::of($this->data['geometry'], 'data.geometry'), 'data.geometry');

        return new self($this->id, $this->action, $this->mark, $this->base, $this->data, $this->seconds, $this->codebook, $this->suggestion, $shape);
    }

    /** The same edit in the words of a later codebook. */
    public function translated(Remap $remap): self
    {
        return new self($this->id, $this->action, $this->mark, $this->base, $this->mark === null ? $remap->saidData($this->data) : $remap->markData($this->mark, $this->data, $this->checked !== null), $this->seconds, null, $this->suggestion, $this->checked);
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
        $data = array_intersect_key($this->data, array_flip(['class', 'kind', 'geometry', 'answers', 'stack', 'part_of', 'flags']));
        if ($this->action === EditAction::Answer) {
            $data = ['answers' => $this->answered($before)];
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
        $data = array_intersect_key($this->data, array_flip(['answers', 'tags']));
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
