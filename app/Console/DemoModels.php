<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\Endpoints;
use App\Help\Examples;
use App\Help\Learning;
use App\Help\Models;
use App\Help\Runs;
use App\Help\Trials;
use App\Items\FindItems;
use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Project;
use App\Models\Run;
use App\Support\Cancelled;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Learn\LearnedKind;

/** What the demo shows of models: the stand-ins connected, skeletons learned twice, a trial, and a run that is half worked through. */
final class DemoModels
{
    /** Accepted cards to learn from, at which the first version was learned. */
    private const EARLY = 5;

    private bool $begun = false;

    public function __construct(private readonly Endpoints $endpoints, private readonly Models $models, private readonly Learning $learning, private readonly Trials $trials, private readonly Runs $runs, private readonly FindItems $find)
    {
    }

    /** Called after each piece of work on the cards. */
    public function meanwhile(Project $cards): void
    {
        if (! $this->begun && count(Examples::parted($cards)['learned']) >= self::EARLY) {
            $this->begun = true;
            $this->learn($cards);
        }
    }

    /** @param  string  $address  where the stand-ins answer */
    public function seed(Project $canopy, Project $cards, string $address): void
    {
        $this->endpoints->allow($address, true);
        foreach ([[$canopy, 'fruit-finder'], [$canopy, 'fruit-regions'], [$cards, 'moth-poser']] as [$project, $name]) {
            $this->models->connect($project, $address, $name, json_decode((string) file_get_contents(base_path("stand-ins/cards/{$name}.json")), true, flags: JSON_THROW_ON_ERROR));
        }
        $this->learn($cards);
        $model = ModelRow::query()->where('project_id', $cards->id)->where('kind', LearnedKind::Skeletons->value)->firstOrFail();
        $all = ($this->find)($cards, [])->ids();
        $trial = $this->trials->begin($cards, $model, null, new Mapping(['moth' => 'moth']), 0.4, $all, queued: false);
        $this->trials->work($trial->load(['project', 'asked']));
        $run = $this->runs->begin($cards, $model, null, new Mapping(['moth' => 'moth']), 0.4, [], 'without', array_values(array_map(intval(...), Item::query()->where('project_id', $cards->id)->where('state', 'waiting')->orderBy('path')->pluck('id')->all())), queued: false);
        $half = intdiv($run->total, 2);
        Run::updated(function (Run $now) use ($run, $half): void {
            if ($now->id === $run->id && $now->done === $half) {
                $this->runs->pause($run);
            }
        });
        try {
            $this->runs->work($run->load(['project', 'asked']));
        } catch (Cancelled) {
            // paused half way, as somebody would
        } finally {
            Run::flushEventListeners();
        }
        // takes a while: the worker does it when the demo is served
        $this->learning->begin($canopy, LearnedKind::Regions);
    }

    private function learn(Project $project): void
    {
        $version = $this->learning->begin($project, LearnedKind::Skeletons, queued: false);
        $this->learning->work($version->load('model'));
    }
}
