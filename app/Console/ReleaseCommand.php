<?php

declare(strict_types=1);

namespace App\Console;

use App\Models\Release;
use App\Releases\Snapshots;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\InvalidValue;
use Skeno\Core\Release\ChosenFrames;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Release\Split;

final class ReleaseCommand extends SkenoCommand
{
    protected $signature = 'skeno:release {project : id or exact name} {--format= : one of the formats; an unknown word lists them} {--layout= : of YOLO: folders, or together for the older one} {--frames=keys : of clips, in a format of pictures: keys, all, every:N or list:0,5,9} {--out= : a folder, or a file ending in .zip}
        {--states=accepted : accepted or any} {--with-unlabelled : items nobody labelled too} {--classes= : keys or names, with commas} {--sets= : sets, with commas}
        {--split= : shares of train, val and test, such as 80,10,10} {--seed=1} {--no-pictures} {--names : with the names of those who labelled}
        {--number= : write this release instead of taking a new one} {--json}';

    protected $description = 'Freeze a release and write it in one format';

    protected function work(): int
    {
        $project = $this->project();
        $word = $this->word('format') ?? '';
        $format = Format::tryFrom($word) ?? throw InvalidValue::at('--format', $word === '' ? null : $word, implode(', ', array_column(Format::cases(), 'value')));
        $layout = $this->word('layout');
        if ($layout !== null && (! $format->hasLayouts() || YoloLayout::tryFrom($layout) === null)) {
            throw InvalidValue::at('--layout', $layout, $format->hasLayouts() ? implode(' or ', array_column(YoloLayout::cases(), 'value')) : "nothing, since {$format->label()} has one layout");
        }
        $frames = ChosenFrames::parse($this->word('frames', 'keys') ?? 'keys', '--frames');
        $out = $this->word('out') ?? throw InvalidValue::at('--out', null, 'a folder, or a file ending in .zip');
        if (is_file($out) || (is_dir($out) && (new \FilesystemIterator($out))->valid())) {
            throw InvalidValue::at('--out', $out, 'a place where nothing is yet');
        }
        $snapshots = app(Snapshots::class);
        $number = $this->word('number');
        if ($number !== null) {
            $release = Release::query()->where('project_id', $project->id)->where('number', (int) $number)->where('state', 'done')->first() ?? throw InvalidValue::at('--number', $number, 'the number of a finished release of this project');
        } else {
            $release = $snapshots->begin($project, null, $this->recipe($project->codebookVersion()->codebook()), 'by command');
            $snapshots->freeze($release);
        }
        $report = $snapshots->write($release, $format, $this->option('no-pictures') !== true, $out, YoloLayout::tryFrom($layout ?? '') ?? YoloLayout::Folders, null, $frames);
        $census = $release->census ?? [];
        $result = ['project' => $project->id, 'release' => $release->number, 'format' => $format->value, 'out' => $out, 'counts' => $census, 'compared' => $report['compared'], 'not_held_by_the_format' => $report['mapping'], 'sha256' => is_file($out) ? hash_file('sha256', $out) : null];
        if ($this->option('json') === true) {
            $this->line($this->json($result));
        } else {
            $this->line("Release {$release->number} of \"{$project->name}\" written to {$out}: {$report['compared']['items']} items, {$report['compared']['marks']} marks, read back and found the same.");
            foreach ($report['mapping'] as $row) {
                $this->line("  {$row['what']} ({$row['count']})");
            }
        }

        return self::DONE;
    }

    private function recipe(\Skeno\Core\Codebook\Codebook $codebook): Recipe
    {
        $seed = $this->word('seed', '1') ?? '1';
        if (preg_match('/^-?\d{1,15}$/', $seed) !== 1) {
            throw InvalidValue::at('--seed', $seed, 'a whole number');
        }
        $split = $this->word('split');
        $shares = $split === null ? null : Split::parse($split, (int) $seed)->shares;
        $list = fn (string $option): array => array_values(array_filter(array_map(trim(...), explode(',', $this->word($option, '') ?? '')), static fn (string $word): bool => $word !== ''));

        return Recipe::fromArray([
            'states' => $this->word('states', 'accepted'),
            'with_unlabelled' => $this->option('with-unlabelled') === true,
            'classes' => $list('classes'),
            'sets' => $list('sets'),
            'names' => $this->option('names') === true,
        ] + ($shares === null ? [] : ['split' => ['train' => $shares['train'] * 100, 'val' => $shares['val'] * 100, 'test' => $shares['test'] * 100, 'seed' => (int) $seed]]), $codebook);
    }
}
