<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\Learning;
use App\Models\ModelVersion;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\LearnedKind;

final class LearnCommand extends SkenoCommand
{
    protected $signature = 'skeno:learn {project : id or exact name} {--kind=regions : looks, regions or skeletons} {--json}';

    protected $description = 'Learn a version of a model from what is accepted, and measure it on what is held out';

    protected function work(): int
    {
        $word = $this->word('kind', 'regions') ?? '';
        $kind = LearnedKind::tryFrom($word) ?? throw InvalidValue::at('--kind', $word, implode(', ', array_column(LearnedKind::cases(), 'value')));
        $learning = app(Learning::class);
        $version = $learning->begin($this->project(), $kind, queued: false);
        try {
            $learning->work($version->load('model'));
        } catch (\Throwable $e) {
            // what nobody goes on with must not look as if somebody did
            ModelVersion::query()->whereKey($version->id)->whereIn('state', ['waiting', 'working'])->update(['state' => 'failed', 'error' => $e->getMessage()]);
            throw $e;
        }
        $version = ModelVersion::query()->select(ModelVersion::COLUMNS)->with('model')->findOrFail($version->id);
        $main = $version->figures['main'] ?? null;
        $this->line($this->option('json') === true
            ? $this->json(['model' => $version->model->name, 'version' => $version->number, 'in_use' => $version->model->version_id === $version->id, 'better' => $version->better, 'learned' => $version->learned, 'figures' => $version->figures])
            : sprintf('%s, version %d: learned from %d items in %.1f s; %s on %d held out%s.', $version->model->name, $version->number, $version->learned['items'], $version->learned['seconds'], $main === null ? 'not measured' : sprintf('%.3f (%.3f to %.3f)', $main['value'], $main['low'], $main['high']), $version->learned['held_out'], $version->model->version_id === $version->id ? '' : '; the version before stays in use'));

        return self::DONE;
    }
}
