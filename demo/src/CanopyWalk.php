<?php

declare(strict_types=1);

namespace Skeno\Demo;

/** The demo project "Canopy walk": what its pictures are called, who works on it, and by which rules. */
final class CanopyWalk
{
    /** @return list<array{path: string, block: Block, seed: string}> */
    public static function plan(int $perBlock): array
    {
        $plan = [];
        foreach (Block::cases() as $block) {
            for ($i = 1; $i <= $perBlock; $i++) {
                $plan[] = ['path' => sprintf('%s/%s-%03d.jpg', $block->value, str_replace(' ', '-', $block->value), $i * 7 + 100), 'block' => $block, 'seed' => "canopy/{$block->value}/{$i}"];
            }
        }

        return $plan;
    }

    /** @return list<array{name: string, email: string, role: string, what: string}> */
    public static function people(): array
    {
        return [
            ['name' => 'Ines Okafor', 'email' => 'ines@larkmoor.example', 'role' => 'manager', 'what' => 'manages the trials'],
            ['name' => 'Tobias Lindqvist', 'email' => 'tobias@larkmoor.example', 'role' => 'reviewer', 'what' => 'reviews, plant pathologist'],
            ['name' => 'Mei Castellan', 'email' => 'mei@larkmoor.example', 'role' => 'labeller', 'what' => 'labels'],
            ['name' => 'Ravi Sørby', 'email' => 'ravi@larkmoor.example', 'role' => 'labeller', 'what' => 'labels'],
            ['name' => 'Aoife Duarte', 'email' => 'aoife@larkmoor.example', 'role' => 'labeller', 'what' => 'labels'],
        ];
    }

    /** The codebook and handbook lie beside this class as files. */
    public static function file(string $name): string
    {
        return dirname(__DIR__)."/resources/{$name}";
    }
}
