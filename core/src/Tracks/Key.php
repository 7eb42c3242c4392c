<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Geometry\Geometry;
use Skeno\Core\InvalidValue;

/** What holds of an object from one place of its track on: where it is, the answers that vary, whether it is hidden. */
final readonly class Key
{
    /**
     * @param  ?Geometry  $geometry  null: only an answer switches here
     * @param  array<string, Answer>  $answers  by attribute key, sorted by key
     * @param  ?float  $confidence  of a model, 0 to 1
     * @param  int  $revision  its own, so that two people on different keys never meet
     */
    private function __construct(public int $place, public ?Geometry $geometry, public array $answers, public bool $hidden, public KeySource $source, public ?float $confidence, public int $revision)
    {
    }

    /**
     * @param  array<string, Answer>  $answers
     *
     * @throws InvalidValue
     */
    public static function of(int $place, ?Geometry $geometry, array $answers = [], bool $hidden = false, KeySource $source = KeySource::Hand, ?float $confidence = null, int $revision = 1): self
    {
        if ($place < 0 || $place > Places::LIMIT) {
            throw InvalidValue::at('key.place', $place, 'a place from 0');
        }
        if ($geometry === null && $answers === []) {
            throw InvalidValue::at('key', $place, 'a shape or an answer');
        }
        if ($confidence !== null && ! ($confidence >= 0 && $confidence <= 1)) {
            throw InvalidValue::at('key.confidence', $confidence, '0 to 1');
        }
        ksort($answers);

        return new self($place, $geometry, $answers, $hidden, $source, $confidence, $revision);
    }

    /**
     * Reads `{place, geometry?, answers?, hidden?, source?, confidence?, revision?}`.
     *
     * @param  Shape  $kind  of the track: all its keys are of one
     * @param  bool  $known  it comes from our own storage, so costly checks of its geometry are not made again
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, Shape $kind, string $path = 'key', bool $known = false): self
    {
        $fields = Fields::of($data, $path);
        $answers = [];
        foreach ($fields->has('answers') ? $fields->map('answers') : [] as $key => $answer) {
            $answers[$key] = Answer::fromArray($answer, $fields->path("answers.{$key}"));
        }
        $source = $fields->optionalString('source', 20) ?? KeySource::Hand->value;

        return self::of(
            $fields->int('place', 0, Places::LIMIT),
            $fields->has('geometry') ? $kind->geometry($fields->object('geometry'), $fields->path('geometry'), $known) : null,
            $answers,
            $fields->bool('hidden'),
            KeySource::tryFrom($source) ?? throw InvalidValue::at($fields->path('source'), $source, implode(', ', array_column(KeySource::cases(), 'value'))),
            $fields->optionalNumber('confidence'),
            $fields->optionalInt('revision', 0) ?? 1,
        );
    }

    /** @return array<string, mixed> without its revision, which is of where it is kept */
    public function toArray(): array
    {
        return ['place' => $this->place]
            + ($this->geometry === null ? [] : ['geometry' => $this->geometry->toArray()])
            + ($this->answers === [] ? [] : ['answers' => array_map(static fn (Answer $answer): array => $answer->toArray(), $this->answers)])
            + ($this->hidden ? ['hidden' => true] : [])
            + ($this->source === KeySource::Hand ? [] : ['source' => $this->source->value])
            + ($this->confidence === null ? [] : ['confidence' => $this->confidence]);
    }

    /** @return ?array{float, float} px: width and height of the box around its shape; null for one that lies on no plane */
    public function extent(): ?array
    {
        $bounds = $this->geometry instanceof Flat ? $this->geometry->bounds() : null;

        return $bounds === null ? null : [$bounds->width, $bounds->height];
    }

    public function revised(int $revision): self
    {
        return new self($this->place, $this->geometry, $this->answers, $this->hidden, $this->source, $this->confidence, $revision);
    }
}
