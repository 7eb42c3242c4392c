<?php

declare(strict_types=1);

namespace Skeno\Demo;

/** A block of the orchard: its light and what stands behind the trees. One set of pictures each. */
enum Block: string
{
    case NorthTerrace = 'north terrace';
    case OldWall = 'old wall';
    case Slope = 'slope';
    case Nursery = 'nursery';

    /** @return array{top: string, bottom: string, brightness: float, saturation: float, warm: float, contrast: float} */
    public function light(): array
    {
        return match ($this) {
            self::NorthTerrace => ['top' => '#b9c6cc', 'bottom' => '#5b6d45', 'brightness' => 112, 'saturation' => 88, 'warm' => -0.1, 'contrast' => 2.0],
            self::OldWall => ['top' => '#b08a70', 'bottom' => '#6d5340', 'brightness' => 108, 'saturation' => 96, 'warm' => 0.45, 'contrast' => 3.0],
            self::Slope => ['top' => '#f3dcae', 'bottom' => '#7d7a3c', 'brightness' => 106, 'saturation' => 104, 'warm' => 1.0, 'contrast' => 3.5],
            self::Nursery => ['top' => '#cfe3ee', 'bottom' => '#86a062', 'brightness' => 122, 'saturation' => 102, 'warm' => 0.15, 'contrast' => 2.5],
        };
    }
}
