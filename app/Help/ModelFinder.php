<?php

declare(strict_types=1);

namespace App\Help;

use App\Models\Item;
use App\Models\ModelRow;
use App\Models\Run;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Inference\Found;
use Skeno\Core\Inference\Knows;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Suggesting;
use Skeno\Core\Marks\Mark;

/** A model of pictures as a run asks it. */
final readonly class ModelFinder implements Finder
{
    private Knows $knows;

    private Mapping $mapping;

    public function __construct(private AskModel $ask, Models $models, private ModelRow $model, private string|ModelRow|null $then, private Run $run)
    {
        $this->knows = $models->knows($model, $then);
        $this->mapping = Mapping::fromArray($run->wish);
    }

    public function looksForObjects(): bool
    {
        return $this->mapping->classes !== [];
    }

    public function suggest(Item $item, Codebook $codebook): Suggestions
    {
        $suggesting = Suggesting::of($codebook, $this->knows, $this->mapping, (float) $this->run->wish['from'], $this->run->wish['own']);
        $looked = $this->ask->find($this->model, $item->asset, $this->then, $this->mapping, $this->run->version_id);
        $marks = array_map(static fn (Found $thing): ?Mark => $suggesting->mark($thing, strtoupper((string) Str::ulid())), $looked->things);

        return new Suggestions(array_values(array_filter($marks)), $suggesting->sayings($looked->told));
    }
}
