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
     * @param  list<Rigid>  $poses  of each frame; none: nobody knows
     * @param  list<list<string>>  $pictures  of each camera and frame how its picture ends; empty: there is none
     */
    public function __construct(public array $cameras, public array $stems, public array $pictures = [], public array $poses = [])
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

        $poses = [];
        foreach ($in->has('poses') ? $in->list('poses') : [] as $i => $pose) {
            $poses[] = Rigid::of(is_array($pose) ? $pose : [], $in->path("poses[{$i}]"));
        }

        return new self($cameras, $stems, $pictures, $poses);
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

    /** @return array<string, mixed> all of it */
    public function toArray(): array
    {
        return $this->facts() + ($this->poses === [] ? [] : ['poses' => array_map(static fn (Rigid $pose): array => $pose->numbers, $this->poses)]);
    }

    /** @return array{cameras: list<array<string, mixed>>, stems: list<string>, pictures: list<list<string>>} what is asked for with an item: without where the scanner was */
    public function facts(): array
    {
        return ['cameras' => array_map(static fn (Camera $camera): array => $camera->toArray(), $this->cameras), 'stems' => $this->stems, 'pictures' => $this->pictures];
    }
}
