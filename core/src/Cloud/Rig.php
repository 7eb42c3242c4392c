<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What came beside the scans of a sequence: its cameras, and how its frames were called. */
final readonly class Rig
{
    public const MOST_CAMERAS = 16;

    /**
     * @param  list<Camera>  $cameras
     * @param  list<string>  $stems  of each frame the name of its file without the ending
     * @param  list<list<string>>  $pictures  of each camera and frame how its picture ends; empty: there is none
     */
    public function __construct(public array $cameras, public array $stems, public array $pictures = [])
    {
    }

    /** The frame whose file was called so; null: none was. */
    public function frame(string $stem): ?int
    {
        $frame = array_search($stem, $this->stems, true);

        return is_int($frame) ? $frame : null;
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'rig'): self
    {
        $in = Fields::of($data, $path);
        $cameras = self::cameras($in);
        $stems = [];
        foreach ($in->has('stems') ? $in->list('stems') : [] as $i => $stem) {
            $stems[] = is_string($stem) && strlen($stem) <= 250 ? $stem : throw InvalidValue::at($in->path("stems[{$i}]"), $stem, 'a name');
        }
        $pictures = [];
        foreach ($in->has('pictures') ? $in->list('pictures') : [] as $i => $of) {
            $pictures[] = array_map(static fn (mixed $ending): string => in_array($ending, ['', 'jpg', 'png'], true) ? $ending : throw InvalidValue::at($in->path("pictures[{$i}]"), $ending, 'jpg, png or nothing'), array_values(is_array($of) ? $of : []));
        }

        return new self($cameras, $stems, $pictures);
    }

    /**
     * Of `{cameras: […]}`, as a `cameras.json` beside the scans has it too.
     *
     * @return list<Camera>
     *
     * @throws InvalidValue
     */
    public static function cameras(Fields $in): array
    {
        $cameras = [];
        $names = [];
        foreach ($in->list('cameras') as $i => $camera) {
            $one = Camera::fromArray($camera, $in->path("cameras[{$i}]"));
            if (isset($names[$one->name]) || $i >= self::MOST_CAMERAS) {
                throw InvalidValue::at($in->path("cameras[{$i}].name"), $one->name, $i >= self::MOST_CAMERAS ? 'at most '.self::MOST_CAMERAS.' cameras' : 'a name no other camera has');
            }
            $names[$one->name] = true;
            $cameras[] = $one;
        }

        return $cameras;
    }

    /** @return array{cameras: list<array<string, mixed>>, stems: list<string>, pictures: list<list<string>>} */
    public function toArray(): array
    {
        return ['cameras' => array_map(static fn (Camera $camera): array => $camera->toArray(), $this->cameras), 'stems' => $this->stems, 'pictures' => $this->pictures];
    }
}
