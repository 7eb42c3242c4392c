<?php

declare(strict_types=1);

namespace App\Help;

use App\Files\Views;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Project;
use App\Support\Refusal;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Learn\Poses;

/** Fits a skeleton a hand has laid roughly, or the box round one, by what the accepted ones of the project look like. Nothing is stored. */
final class FitSkeleton
{
    public function __construct(private readonly AskModel $ask, private readonly Views $views)
    {
    }

    /** @return list<string> classes of a project whose skeletons can be fitted */
    public static function classes(Project $project): array
    {
        return self::model($project->id)?->knows()->classes ?? [];
    }

    /**
     * @param  Fields  $in  `{class, box | nodes, place?}`; nodes: where they were laid
     * @return array{geometry: object, confidence: float, nodes: object}
     *
     * @throws InvalidValue|Refusal
     */
    public function __invoke(Item $item, Fields $in): array
    {
        $places = $item->places();
        $place = $places === null ? null : $in->int('place', 0, $places - 1);
        $model = self::model($item->project_id) ?? throw Refusal::because('model_not_learned', 'no skeletons have been learned in this project yet');
        $class = $in->string('class', 120);
        $poses = $this->ask->skeletons($model)->poses[$class] ?? throw InvalidValue::at('class', $class, 'a class whose skeletons were learned: '.implode(', ', $model->knows()->classes));
        $asset = $item->asset;
        $on = $item->extent()->at($place);
        $part = fn (int $x, int $y, int $width, int $height, int $columns, int $rows): Colours => $this->views->colours($asset, $place, $x, $y, $width, $height, $columns, $rows);
        if ($in->has('box') === $in->has('nodes')) {
            throw InvalidValue::at('box', null, 'either a box, or nodes as they were laid');
        }
        $fitted = $in->has('box')
            ? $poses->inBox($part, $on->width, $on->height, Shape::Box->flat($in->object('box'), 'box')->bounds()->clippedTo($on->width, $on->height) ?? throw InvalidValue::at('box', 'outside of the picture', 'a box on the picture'))
            : $poses->from($part, $on->width, $on->height, self::laid($in, $poses));

        return ['geometry' => (object) $fitted['pose']->toArray(), 'confidence' => $fitted['confidence'], 'nodes' => (object) $fitted['nodes']];
    }

    /**
     * @return list<float> x, y of each node
     *
     * @throws InvalidValue when one is missing
     */
    private static function laid(Fields $in, Poses $poses): array
    {
        $nodes = $in->object('nodes');
        $laid = [];
        foreach ($poses->nodes as $key) {
            $node = $nodes->object($key);
            array_push($laid, $node->number('x'), $node->number('y'));
        }

        return $laid;
    }

    private static function model(int $project): ?ModelRow
    {
        return ModelRow::query()->where('project_id', $project)->where('kind', LearnedKind::Skeletons->value)->whereNotNull('version_id')->orderBy('id')->first();
    }
}
