<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\CallModel;
use App\Help\Endpoints;
use App\Help\Models;
use App\Models\Endpoint;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\InvalidValue;

final class ModelsCommand extends SkenoCommand
{
    protected $signature = 'skeno:models {project? : id or exact name; lists its models} {--allow= : an address models may be asked at, such as https://models.example:8443} {--private : with it: it may lead to a private network or this machine}
        {--card= : a file with a card: connects the model} {--address= : with it: an allowed address} {--remote= : with it: what the model is called there, perhaps name@version} {--check= : name of a model: asks it what it says of itself} {--json}';

    protected $description = 'Allow addresses of models, connect a model by its card, check and list them';

    protected function work(): int
    {
        $allow = $this->word('allow');
        if ($allow !== null) {
            $endpoint = app(Endpoints::class)->allow($allow, $this->option('private') === true);
            $this->tell(['address' => $endpoint->address, 'private' => $endpoint->private], "Models may be asked at {$endpoint->address}".($endpoint->private ? ', which may lead to a private network.' : '.'));

            return self::DONE;
        }
        if ($this->text('project') === '') {
            $addresses = Endpoint::query()->orderBy('address')->get()->map(static fn (Endpoint $one): array => ['address' => $one->address, 'private' => $one->private])->values()->all();
            $this->tell(['addresses' => $addresses], $addresses === [] ? 'No address is allowed yet: --allow=https://…' : implode("\n", array_column($addresses, 'address')));

            return self::DONE;
        }
        $project = $this->project();
        $card = $this->word('card');
        if ($card !== null) {
            $document = is_file($card) ? json_decode((string) file_get_contents($card), true) : null;
            if (! is_array($document)) {
                throw InvalidValue::at('--card', $card, 'a file with a card as JSON');
            }
            $model = app(Models::class)->connect($project, $this->word('address') ?? throw InvalidValue::at('--address', null, 'an allowed address'), $this->word('remote') ?? (is_string($document['name'] ?? null) ? $document['name'] : ''), $document);
            $alike = Mapping::alike($project->codebookVersion()->codebook(), $model->knows());
            $this->tell(['model' => $model->name, 'classes' => (object) $alike->classes, 'tags' => (object) $alike->tags], "{$model->name} is connected; of what it knows ".(count($alike->classes) + count($alike->tags)).' are classes or tags of this project.');

            return self::DONE;
        }
        $check = $this->word('check');
        if ($check !== null) {
            $model = app(Models::class)->named($project, $check);
            $said = app(CallModel::class)->described($model->endpoint ?? throw InvalidValue::at('--check', $check, 'a model with an address'), $model->remote);
            $lacks = array_values(array_diff($model->card()->wanted(), array_column($said['outputs'], 'name')));
            $this->tell(['model' => $model->name, 'lacks' => $lacks] + $said, "{$model->name} ".($said['ready'] ? 'is ready' : 'is not ready').($lacks === [] ? '.' : '; it has no output '.implode(', ', $lacks).'.'));

            return $said['ready'] && $lacks === [] ? self::DONE : self::SOME_REFUSED;
        }
        $models = ModelRow::query()->where('project_id', $project->id)->with('endpoint')->orderBy('name')->get()->map(static function (ModelRow $one): array {
            $version = $one->version_id === null ? null : ModelVersion::query()->select(ModelVersion::COLUMNS)->find($one->version_id);

            return ['name' => $one->name, 'kind' => $one->kind, 'about' => $one->learns() === null ? $one->card()->about : '', 'address' => $one->endpoint?->address, 'remote' => $one->remote, 'classes' => $one->knows()->classes, 'tags' => $one->knows()->tags, 'questions' => $one->knows()->questions] + ($version === null ? [] : ['version' => $version->number, 'figures' => $version->figures]);
        })->values()->all();
        $this->tell(['models' => $models], $models === [] ? 'This project has no model yet.' : implode("\n", array_map(static fn (array $one): string => "{$one['name']}: ".implode(', ', [...$one['classes'], ...$one['tags'], ...$one['questions']]), $models)));

        return self::DONE;
    }

    /** @param  array<string, mixed>  $data */
    private function tell(array $data, string $words): void
    {
        $this->line($this->option('json') === true ? $this->json($data) : $words);
    }
}
