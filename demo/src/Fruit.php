<?php

declare(strict_types=1);

namespace Skeno\Demo;

use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Geometry\Flat;
use Skeno\Core\Raster\Mask;

/** What is truly on a picture: an apple, a spot of scab, a branch, or fruit too blurred to tell. */
final readonly class Fruit
{
    /** Around what shows of it. */
    public Box $box;

    /**
     * @param  'apple'|'scab'|'branch'|'blurred'  $class
     * @param  Flat  $shape  as its class is drawn first: box, polygon or polyline
     * @param  float  $visible  share that shows, 0 to 1
     * @param  array<string, array<string, mixed>>  $answers  as in a mark
     * @param  ?Mask  $pixels  what shows of an apple
     */
    public function __construct(public string $class, public Flat $shape, public float $visible, public array $answers, public ?Mask $pixels = null)
    {
        $this->box = $shape->bounds();
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['class' => $this->class, 'kind' => Shape::of($this->shape)->value, 'geometry' => $this->shape->toArray(), 'visible' => $this->visible, 'answers' => $this->answers] + ($this->pixels === null ? [] : ['pixels' => $this->pixels->toArray()]);
    }

    /** @param  array<string, mixed>  $data */
    public static function fromArray(array $data): self
    {
        $fields = Fields::of($data);
        /** @var 'apple'|'scab'|'branch'|'blurred' $class */
        $class = $fields->string('class');
        /** @var array<string, array<string, mixed>> $answers */
        $answers = $fields->map('answers');

        return new self($class, Shape::from($fields->string('kind'))->flat($fields->object('geometry'), 'geometry'), $fields->number('visible'), $answers, $fields->has('pixels') ? Mask::fromFields($fields->object('pixels')) : null);
    }
}
