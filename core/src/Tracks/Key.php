<?php

declare(strict_types=1);

namespace Skeno\Core\Tracks;

use Skeno\Core\Codebook\Answer;
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

    public function revised(int $revision): self
    {
        return new self($this->place, $this->geometry, $this->answers, $this->hidden, $this->source, $this->confidence, $revision);
    }
}
