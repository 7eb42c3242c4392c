<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Format;
use Skeno\Core\Json\Lines;

/** The page that goes with every written dataset: where it comes from, what is in it, what the format could not hold. */
final class Datasheet
{
    /**
     * @param  array<string, mixed>  $about  name and number of the release
     * @param  list<array{what: string, count: int}>  $mapping
     */
    public static function json(array $about, Recipe $recipe, Codebook $codebook, Census $census, Format $format, bool $pictures, array $mapping): string
    {
        $classes = [];
        foreach ($codebook->classes as $class) {
            $classes[] = ['index' => $class->index, 'key' => $class->key, 'name' => $codebook->exportName($class), 'ignore' => $class->ignore, 'marks' => $census->toArray()['classes'][$class->key] ?? 0];
        }
        $counts = $census->toArray();
        unset($counts['classes']);

        return Lines::pretty($about + [
            'format' => $format->value,
            'pictures' => $pictures,
            'recipe' => $recipe->toArray(),
            'counts' => $counts,
            'classes' => $classes,
            'nothing_there' => $census->lists()['nothing'],
            'not_labelled' => $census->lists()['unlabelled'],
            'not_held_by_the_format' => $mapping,
        ]);
    }
}
