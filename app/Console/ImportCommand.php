<?php

declare(strict_types=1);

namespace App\Console;

use App\Intake\TakeFiles;
use App\Intake\TakeLabels;
use App\Intake\TakeTexts;
use App\Models\Project;
use Skeno\Core\Archive\ZipTarget;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Noticed;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\Table;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Wish;

final class ImportCommand extends SkenoCommand
{
    protected $signature = 'skeno:import {project : id or exact name} {path : a folder, a zip or a picture}
        {--format= : format of the labels; an unknown word lists them} {--labels= : where the labels are (default: PATH)}
        {--as=labels : labels or suggestions} {--empty=unlabelled : what a picture without objects means: unlabelled or nothing}
        {--text= : of a table of texts: the column with the text} {--id= : the column that names each text}
        {--resolution= : px an inch the pages of PDFs are drawn at} {--slices= : the pictures of a folder are the slices of a volume: mm across, down and from slice to slice, as 0.5,0.5,2} {--bundles : the pictures of a folder are the pages of one document; a pages.csv (document, file) says otherwise} {--frames : the scans of a folder are the frames of one sequence}
        {--set= : put everything under this set} {--again : take bytes already in the project a second time} {--json}';

    protected $description = 'Bring pictures, and labels with them or onto them, into a project';

    protected function work(): int
    {
        $project = $this->project();
        $path = $this->text('path');
        if (! is_file($path) && ! is_dir($path)) {
            throw InvalidValue::at('PATH', $path, 'a folder, a zip, a picture or a file of texts');
        }
        $format = $this->format();
        $as = $this->oneOf('as', ['labels', 'suggestions']);
        $empty = $this->oneOf('empty', ['unlabelled', 'nothing']);
        $labels = $this->word('labels') ?? ($format === null ? null : $path);
        if ($format !== null && ($this->word('text') !== null || $this->word('labels') === null && $this->isOfTexts($format, $path))) {
            return $this->texts($project, $format, $path, $as === 'labels', $empty === 'nothing');
        }
        if ($labels !== null && $format === null) {
            throw InvalidValue::at('--format', null, 'the format of the labels: '.implode(', ', array_column(Format::cases(), 'value')));
        }
        if ($labels !== null && ! is_file($labels) && ! is_dir($labels)) {
            throw InvalidValue::at('--labels', $labels, 'a file or folder that can be read');
        }
        $wish = $this->wish();
        $report = ['project' => $project->id, 'taken' => 0, 'known' => 0, 'passed' => 0, 'refused' => [], 'renamed' => []];
        $items = [];
        $intake = app(TakeFiles::class);
        foreach ($intake->all($project, $path, $this->option('again') === true, $this->word('set', '') ?? '', null, $wish) as $outcome) {
            if ($outcome->state === 'refused') {
                $report['refused'][] = ['file' => $outcome->path, 'reason' => $outcome->reason];
            } else {
                $report[$outcome->state]++;
            }
            if ($outcome->state === 'taken' && $outcome->reason !== '') {
                $report['renamed'][] = ['file' => $outcome->path, 'reason' => $outcome->reason];
            }
            if ($outcome->state === 'taken' && $outcome->item !== null) {
                $items[] = $outcome->item;
            }
        }
        $intake->derive($items, true);
        $report['labels'] = $format === null || $labels === null ? null : $this->labels($labels, static fn (string $from): array => app(TakeLabels::class)($project, $format, $from, $as === 'labels', $empty === 'nothing'));
        $report['noticed'] = $labels === null && is_dir($path) ? array_map(static fn (array $one): array => ['format' => $one['format']->value, 'files' => $one['files']], Noticed::in(new Folder($path))) : [];
        $this->show($report);

        return $report['refused'] !== [] || ($report['labels']['skipped_count'] ?? 0) > 0 ? self::SOME_REFUSED : self::DONE;
    }

    /** @return array{slices?: list<float>} */
    private function slices(): array
    {
        $word = $this->word('slices');
        if ($word === null) {
            return [];
        }
        $mm = explode(',', $word);

        return ['slices' => array_map(static fn (string $one): float => is_numeric(trim($one)) ? (float) $one : throw InvalidValue::at('--slices', $word, 'three numbers: mm across, down and from slice to slice'), $mm)];
    }

    private function wish(): Wish
    {
        $word = $this->word('resolution');
        if ($word !== null && ! ctype_digit($word)) {
            throw InvalidValue::at('--resolution', $word, 'px an inch');
        }

        return Wish::fromFields(Fields::of(['resolution' => $word === null ? null : (int) $word, 'bundles' => $this->option('bundles') === true, 'frames' => $this->option('frames') === true] + $this->slices()));
    }

    /** Whether a path holds texts with their labels in one, rather than labels of items. */
    private function isOfTexts(Format $format, string $path): bool
    {
        if (is_dir($path) || $format === Format::Csv) {
            return is_file($path) && Table::isOfTexts($path) || is_dir($path) && $format->holdsOnlyTexts() && $this->textFiles($format, $path) !== [];
        }

        return $format->holdsOnlyTexts();
    }

    /** @return list<string> files of texts in a folder, below it */
    private function textFiles(Format $format, string $folder): array
    {
        $endings = match ($format) {
            Format::Conll => ['conll', 'bio', 'iob'],
            Format::Jsonl => ['jsonl', 'ndjson'],
            default => ['csv', 'tsv'],
        };

        return array_values(array_filter(ZipTarget::files($folder), static fn (string $file): bool => in_array(strtolower(pathinfo($file, PATHINFO_EXTENSION)), $endings, true) && basename($file) !== 'texts.csv'));
    }

    private function texts(Project $project, Format $format, string $path, bool $asLabels, bool $emptyIsNothing): int
    {
        $columns = Columns::of($this->word('text'), $this->word('id'));
        $into = $this->word('set');
        $all = ['project' => $project->id, 'taken' => 0, 'known' => 0, 'passed' => 0, 'refused' => [], 'renamed' => [], 'labels' => null, 'noticed' => []];
        $take = function (string $from) use ($project, $format, $asLabels, $emptyIsNothing, $columns, $into, $path, &$all): array {
            foreach (is_dir($from) ? $this->textFiles($format, $from) : [''] as $file) {
                $name = ($into === null ? '' : rtrim($into, '/').'/').($file === '' ? basename($path) : $file);
                try {
                    $done = app(TakeTexts::class)($project, $format, $file === '' ? $from : "{$from}/{$file}", $name, $columns, $asLabels, $emptyIsNothing, $this->option('again') === true);
                } catch (UnreadableLabels $e) {
                    $all['refused'][] = ['file' => $name, 'reason' => $e->getMessage()];

                    continue;
                }
                $all['taken'] += $done['taken'];
                $all['known'] += $done['known'];
                $all['labels'] = $all['labels'] === null ? $done['labels'] : TakeTexts::together($all['labels'], $done['labels']);
            }

            return [];
        };
        $this->labels($path, $take);
        $this->show($all);

        return $all['refused'] !== [] || ($all['labels']['skipped_count'] ?? 0) > 0 ? ($all['taken'] + $all['known'] === 0 && $all['refused'] !== [] ? self::FAILED : self::SOME_REFUSED) : self::DONE;
    }

    /**
     * Labels in a zip are unpacked beside the state first, under the same limits as pictures.
     *
     * @template T
     *
     * @param  \Closure(string): T  $take
     * @return T
     */
    private function labels(string $path, \Closure $take): mixed
    {
        if (is_dir($path) || (string) @file_get_contents($path, false, null, 0, 4) !== "PK\x03\x04") {
            return $take($path);
        }

        return app(\App\Intake\UnpackLabels::class)($path, $take);
    }

    private function format(): ?Format
    {
        $word = $this->word('format');

        return $word === null ? null : (Format::tryFrom($word) ?? throw InvalidValue::at('--format', $word, implode(', ', array_column(Format::cases(), 'value'))));
    }

    /** @param  list<string>  $words */
    private function oneOf(string $option, array $words): string
    {
        $word = $this->word($option, $words[0]) ?? $words[0];

        return in_array($word, $words, true) ? $word : throw InvalidValue::at("--{$option}", $word, implode(' or ', $words));
    }

    /** @param  array<string, mixed>  $report */
    private function show(array $report): void
    {
        if ($this->option('json') === true) {
            $this->line($this->json($report));

            return;
        }
        $refused = is_array($report['refused']) ? $report['refused'] : [];
        $this->line(sprintf('Items: %d taken, %d already there, %d refused, %d passed over.', $report['taken'], $report['known'], count($refused), $report['passed']));
        $labels = is_array($report['labels']) ? $report['labels'] : null;
        if ($labels !== null) {
            $this->line(sprintf('Labels: %d objects on %d items (%d accepted, %d submitted with findings, %d with nothing there, %d not labelled); %d were there already, %d did not come in.', $labels['objects'], $labels['items'], $labels['accepted'], $labels['submitted'], $labels['nothing'], $labels['unlabelled'], $labels['known'], $labels['skipped_count']));
        }
        $rows = array_map(static fn (array $row): string => "  refused {$row['file']}: {$row['reason']}", $refused);
        foreach ($labels['skipped'] ?? [] as $row) {
            $rows[] = "  not in: {$row['file']}, {$row['place']}: {$row['reason']}";
        }
        foreach (is_array($report['noticed']) ? $report['noticed'] : [] as $row) {
            $rows[] = "  label files lie beside the pictures: {$row['format']} ({$row['files']}); --format={$row['format']} takes them in";
        }
        foreach ($labels['notices'] ?? [] as $row) {
            $rows[] = "  note: {$row['what']} ({$row['count']})";
        }
        foreach ($rows as $row) {
            $this->line($row);
        }
    }
}
