<?php

declare(strict_types=1);

namespace Skeno\Core\Learn;

use Closure;
use Skeno\Core\Cutout\Cutout;
use Skeno\Core\Cutout\Window;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\Inference\Found;
use Skeno\Core\InvalidValue;
use Skeno\Core\Quality\Looks;

/** What is done in each place where a model has found something: outlined, a skeleton fitted, questions answered. */
final readonly class Then
{
    /** Things that are gone on with, the surest. */
    private const MOST = 200;

    /** How the name of a question about objects begins, and that of one about the picture. */
    public const OF_OBJECT = 'object:';

    public const OF_PICTURE = 'picture:';

    /** The tags of a picture, as one question; no question has such a key. */
    public const TAGS = self::OF_PICTURE.'#tags';

    /**
     * @param  Closure(int, int, int, int, int, int): Colours  $part  a part of the picture in a size: left, top, width, height, columns, rows
     * @param  int  $width  of the picture, $height likewise
     */
    public function __construct(private Closure $part, private int $width, private int $height)
    {
    }

    /**
     * How the names of the learned questions about pictures are said: keys of tags and questions.
     *
     * @param  list<string>  $questions  names, as Choices has them
     * @return list<string> keys of questions about the picture
     */
    public static function aboutPictures(array $questions): array
    {
        return array_values(array_map(static fn (string $name): string => substr($name, strlen(self::OF_PICTURE)), array_filter($questions, static fn (string $name): bool => str_starts_with($name, self::OF_PICTURE) && $name !== self::TAGS)));
    }

    /**
     * @param  list<Found>  $found
     * @param  Skeletons|Choices|null  $learned  null: each is outlined by cut-out
     * @param  array<string, string>  $classes  keys of the project's classes by the names of who has found them
     * @return list<Found> the surest first
     */
    public function all(array $found, Skeletons|Choices|null $learned, array $classes): array
    {
        $done = [];
        foreach (array_slice($found, 0, self::MOST) as $one) {
            $box = $one->shapes[0]->bounds()->clippedTo($this->width, $this->height);
            if ($box === null || $box->width < 4 || $box->height < 4) {
                continue;
            }
            $done[] = match (true) {
                $learned instanceof Skeletons => $this->posed($one, $box, $learned, $classes[$one->class] ?? $one->class),
                $learned instanceof Choices => $this->answered($one, $box, $learned),
                default => $this->outlined($one, $box),
            };
        }
        usort($done, static fn (Found $a, Found $b): int => $b->confidence <=> $a->confidence);

        return $done;
    }

    private function posed(Found $one, Box $box, Skeletons $learned, string $class): Found
    {
        $poses = $learned->poses[$class] ?? null;
        if ($poses === null) {
            return $one;
        }
        $fitted = $poses->inBox($this->part, $this->width, $this->height, $box);

        return $one->as([$fitted['pose']], sqrt($one->confidence * $fitted['confidence']), $fitted['nodes']);
    }

    private function answered(Found $one, Box $box, Choices $learned): Found
    {
        $left = (int) floor($box->x);
        $top = (int) floor($box->y);
        $bytes = ($this->part)($left, $top, max(1, min($this->width - $left, (int) ceil($box->width))), max(1, min($this->height - $top, (int) ceil($box->height))), Swatch::SIDE, Swatch::SIDE)->bytes;
        /** @var array<int, int> $values */
        $values = unpack('C*', $bytes);
        $looks = Looks::ofObject(Swatch::of(array_values($values)), $box, $this->width, $this->height);

        return $one->saying($learned->told(self::OF_OBJECT, $looks)->answers);
    }

    private function outlined(Found $one, Box $box): Found
    {
        try {
            $window = Window::round($box, [], $this->width, $this->height);
        } catch (InvalidValue) {
            // too small to have an outline: its box says all
            return $one;
        }
        $mask = $window->out((new Cutout(($this->part)($window->x, $window->y, $window->width, $window->height, $window->columns, $window->rows), $window->box))->mask());

        return $mask->isEmpty() ? $one : $one->as([$box, $mask], $one->confidence);
    }
}
