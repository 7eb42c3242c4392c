<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

/**
 * The twelve class colours, each in a deep step for paper and a light step for the dusk surround. Chosen by computation and
 * held to it by test: contrast of at least 3:1 on paper and dusk, a plain difference between any two under normal sight and
 * between the first six under red and green blindness, in this order; the marker tells the rest.
 */
final class Palette
{
    /** @var non-empty-list<array{deep: string, light: string}> */
    public const COLORS = [
        ['deep' => '#c2452d', 'light' => '#f0845a'],
        ['deep' => '#2f7f9a', 'light' => '#62bfdb'],
        ['deep' => '#8a7a1f', 'light' => '#d8c24a'],
        ['deep' => '#1e6150', 'light' => '#4fb98f'],
        ['deep' => '#4a5fb0', 'light' => '#8fa4f0'],
        ['deep' => '#0f766e', 'light' => '#5fe0d3'],
        ['deep' => '#6d5a8f', 'light' => '#b39ddb'],
        ['deep' => '#a63d6e', 'light' => '#ec86b4'],
        ['deep' => '#7d5a3a', 'light' => '#c9a17c'],
        ['deep' => '#5b7f1c', 'light' => '#a3cc52'],
        ['deep' => '#b3261e', 'light' => '#ff6b6b'],
        ['deep' => '#6b6f72', 'light' => '#d5d8da'],
    ];

    /** The light step that goes with a class's colour: the palette's own, else the colour mixed with white until it stands out on dusk. */
    public static function light(string $color): string
    {
        foreach (self::COLORS as $pair) {
            if (strcasecmp($pair['deep'], $color) === 0) {
                return $pair['light'];
            }
        }
        [$r, $g, $b] = [(int) hexdec(substr($color, 1, 2)), (int) hexdec(substr($color, 3, 2)), (int) hexdec(substr($color, 5, 2))];
        while (0.299 * $r + 0.587 * $g + 0.114 * $b < 130) {
            [$r, $g, $b] = [$r + (int) ceil((255 - $r) / 8), $g + (int) ceil((255 - $g) / 8), $b + (int) ceil((255 - $b) / 8)];
        }

        return sprintf('#%02x%02x%02x', $r, $g, $b);
    }

    public static function deep(int $index): string
    {
        return self::COLORS[$index % count(self::COLORS)]['deep'];
    }
}
