<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;

/**
 * What the tensors of a model mean: how a picture goes in, and what comes out. `docs/card.schema.json` has it as a schema.
 */
final readonly class Card
{
    public const FORM = 'card/1';

    /** px of the longest side a picture goes in with. */
    private const LARGEST = 4096;

    private const MOST_NAMES = 2000;

    /** What outputs may mean, and the axes each has for one picture. */
    public const OUTPUTS = ['boxes' => 2, 'scores' => 1, 'classes' => 1, 'class_scores' => 2, 'masks' => 3, 'keypoints' => 3, 'labels' => 2, 'picture_scores' => 1];

    /**
     * @param  array<string, string>  $outputs  names of tensors by what they mean: keys of OUTPUTS
     * @param  list<string>  $classes  in the order of the model's indexes
     * @param  list<string>  $nodes  of its skeletons, in the order of the model
     * @param  list<float>  $mean  taken away from each channel after scaling
     * @param  list<float>  $spread  by which each channel is divided then
     */
    private function __construct(
        public string $name,
        public string $about,
        public string $input,
        public int $width,
        public int $height,
        public bool $keepsProportions,
        public bool $channelsFirst,
        public DataType $type,
        public float $scale,
        public array $mean,
        public array $spread,
        public bool $blueFirst,
        public array $outputs,
        public string $boxForm,
        public bool $inShares,
        public array $classes,
        public array $nodes,
        public float $atLeast,
    ) {
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data): self
    {
        $in = Fields::of($data, 'card');
        if ($in->string('skeno', 20) !== self::FORM) {
            throw InvalidValue::at($in->path('skeno'), $in->raw('skeno'), self::FORM);
        }
        $picture = $in->object('input');
        $outputs = [];
        foreach ($in->object('outputs')->all() as $meaning => $tensor) {
            if (! array_key_exists($meaning, self::OUTPUTS)) {
                throw InvalidValue::at($in->path('outputs'), $meaning, implode(', ', array_keys(self::OUTPUTS)));
            }
            $outputs[$meaning] = is_string($tensor) && $tensor !== '' && strlen($tensor) <= 200 ? $tensor : throw InvalidValue::at($in->path("outputs.{$meaning}"), $tensor, 'the name of a tensor');
        }
        $card = new self(
            $in->string('name', 120),
            $in->optionalString('about', 2000) ?? '',
            $picture->string('tensor', 200),
            $picture->int('width', 8, self::LARGEST),
            $picture->int('height', 8, self::LARGEST),
            self::one($picture, 'size', ['fit', 'stretch']) === 'fit',
            self::one($picture, 'layout', ['NCHW', 'NHWC']) === 'NCHW',
            DataType::tryFrom(self::one($picture, 'datatype', ['FP32', 'UINT8'])) ?? DataType::Fp32,
            $picture->optionalNumber('scale') ?? 1.0,
            self::channels($picture, 'mean', 0.0),
            self::channels($picture, 'spread', 1.0),
            self::one($picture, 'colour', ['RGB', 'BGR']) === 'BGR',
            $outputs,
            self::one($in, 'boxes', ['xyxy', 'xywh', 'cxcywh']),
            self::one($in, 'units', ['px', 'share']) === 'share',
            self::names($in, 'classes'),
            self::names($in, 'nodes'),
            $in->optionalNumber('at_least') ?? 0.05,
        );
        $card->check();

        return $card;
    }

    public function knows(): Knows
    {
        $finds = array_intersect(['boxes', 'masks', 'keypoints', 'labels'], array_keys($this->outputs)) !== [];

        return new Knows($finds ? $this->classes : [], $this->nodes, isset($this->outputs['picture_scores']) ? $this->classes : []);
    }

    /** @return list<string> names of the tensors that are asked for */
    public function wanted(): array
    {
        return array_values(array_unique($this->outputs));
    }

    /** Where a picture comes to lie in the model's own. */
    public function placed(int $width, int $height): Placement
    {
        return Placement::of($width, $height, $this->width, $this->height, $this->keepsProportions);
    }

    /** A picture as the model wants it. @param  Colours  $picture  of the size it is placed with */
    public function input(Colours $picture, Placement $placed): Tensor
    {
        $plain = $this->type === DataType::Uint8;
        $area = $this->width * $this->height;
        $order = $this->blueFirst ? [2, 1, 0] : [0, 1, 2];
        // what lies round it is black
        $channels = [];
        foreach ($order as $c => $from) {
            $look = [];
            for ($level = 0; $level < 256; $level++) {
                $look[] = $plain ? $level : ($level * $this->scale - $this->mean[$c]) / $this->spread[$c];
            }
            $channel = array_fill(0, $area, $look[0]);
            for ($y = 0; $y < $picture->height; $y++) {
                $at = ($y + $placed->top) * $this->width + $placed->left;
                $of = 3 * $y * $picture->width + $from;
                for ($x = 0; $x < $picture->width; $x++) {
                    $channel[$at + $x] = $look[ord($picture->bytes[$of + 3 * $x])];
                }
            }
            $channels[] = $channel;
        }
        if ($this->channelsFirst) {
            return Tensor::of($this->input, $this->type, [1, 3, $this->height, $this->width], [...$channels[0], ...$channels[1], ...$channels[2]]);
        }
        $values = [];
        [$a, $b, $c] = $channels;
        foreach ($a as $i => $first) {
            $values[] = $first;
            $values[] = $b[$i];
            $values[] = $c[$i];
        }

        return Tensor::of($this->input, $this->type, [1, $this->height, $this->width, 3], $values);
    }

    private function check(): void
    {
        $has = fn (string ...$some): bool => array_diff($some, array_keys($this->outputs)) === [];
        if (! $has('labels') && ! $has('picture_scores') && ! $has('boxes') && ! $has('keypoints') && ! $has('masks')) {
            throw InvalidValue::at('card.outputs', $this->outputs, 'boxes, masks, keypoints, labels or picture_scores');
        }
        if (($has('boxes') || $has('masks') || $has('keypoints')) && ! $has('scores') && ! $has('class_scores')) {
            throw InvalidValue::at('card.outputs', $this->outputs, 'also scores or class_scores: how sure it is of each');
        }
        if ($has('keypoints') && $this->nodes === []) {
            throw InvalidValue::at('card.nodes', [], 'the names of the nodes, in the order of the model');
        }
        if ($this->classes === []) {
            throw InvalidValue::at('card.classes', [], 'the names of the classes, in the order of the model');
        }
        if ($this->scale <= 0) {
            throw InvalidValue::at('card.input.scale', $this->scale, 'a number above 0');
        }
        if ($this->atLeast < 0 || $this->atLeast > 1) {
            throw InvalidValue::at('card.at_least', $this->atLeast, '0 to 1');
        }
    }

    /** @param  non-empty-list<string>  $may  the first is meant when nothing is said */
    private static function one(Fields $in, string $key, array $may): string
    {
        $value = $in->optionalString($key, 20) ?? $may[0];

        return in_array($value, $may, true) ? $value : throw InvalidValue::at($in->path($key), $value, implode(', ', $may));
    }

    /** @return list<float> */
    private static function channels(Fields $in, string $key, float $plain): array
    {
        if (! $in->has($key)) {
            return [$plain, $plain, $plain];
        }
        $values = [];
        foreach ($in->list($key) as $value) {
            $values[] = (is_int($value) || is_float($value)) && is_finite($value) && ($key === 'mean' || $value > 0) ? (float) $value : throw InvalidValue::at($in->path($key), $value, $key === 'mean' ? 'numbers' : 'numbers above 0');
        }

        return count($values) === 3 ? $values : throw InvalidValue::at($in->path($key), count($values).' numbers', 'three, one for each colour');
    }

    /** @return list<string> */
    private static function names(Fields $in, string $key): array
    {
        if (! $in->has($key)) {
            return [];
        }
        $names = $in->strings($key);
        if (count($names) > self::MOST_NAMES || count(array_unique($names)) !== count($names)) {
            throw InvalidValue::at($in->path($key), count($names), 'at most '.self::MOST_NAMES.' names, each once');
        }

        return array_values($names);
    }
}
