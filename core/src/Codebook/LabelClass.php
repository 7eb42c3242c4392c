<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/** A class of the codebook. Colours and markers left open there are filled from the palette by place. */
final readonly class LabelClass
{
    /**
     * @param  int  $index  place in the codebook from 0; fixes the class index of every written format
     * @param  list<Shape>  $shapes
     * @param  list<string>  $attributes  keys of the object attributes asked, in order
     * @param  list<string>  $partOf  keys of classes this may be a part of
     * @param  ?float  $minSize  shorter side in pixels below which a mark is doubtful
     * @param  ?string  $skeleton  key of the skeleton it is placed by
     * @param  ?int  $points  number of points a mark has: a points mark, or an outline of a class that is not drawn as points, is finished by itself then
     * @param  list<string>  $pointNames  what its points are called, in order; those without a name go by their number
     * @param  ?float  $minVisible  least share of an object that must show, 0 to 1
     * @param  bool  $upright  turned or flipped copies would be wrong
     * @param  bool  $absent  on a clip it is not there where it can't be seen, instead of hidden
     */
    public function __construct(
        public int $index,
        public string $key,
        public string $name,
        public string $color,
        public Marker $marker,
        public array $shapes,
        public array $attributes = [],
        public array $partOf = [],
        public ?string $shortcut = null,
        public int $stack = 0,
        public bool $ignore = false,
        public ?float $minSize = null,
        public ?string $description = null,
        public ?string $skeleton = null,
        public ?int $points = null,
        public ?Margin $margin = null,
        public ?float $minVisible = null,
        public bool $upright = false,
        public array $pointNames = [],
        public bool $absent = false,
    ) {
    }

    public function allows(Shape $shape): bool
    {
        return in_array($shape, $this->shapes, true);
    }
}
