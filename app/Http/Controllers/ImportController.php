<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Codebooks\Codebooks;
use App\Http\Input;
use App\Intake\TakeLabelFile;
use App\Intake\TakeLabels;
use App\Intake\Uploads;
use App\Models\Import;
use App\Models\ImportFile;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\Table;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Wish;

/** Bring in: an import receives files in pieces, the worker takes them, the report says what became of each. */
final class ImportController
{
    /** Files announced at a time. */
    private const ANNOUNCED = 200;

    /** Lines of a report at a time. */
    private const PAGE = 100;

    public function __construct(private readonly Uploads $uploads)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $found = Input::project($request)->imports()->with('user')->orderByDesc('id')->limit(50)->get();

        return new JsonResponse(['data' => $found->map($this->shape(...))->all()]);
    }

    /** With `labels`: an import of label files, `{format, as, empty}`; with `texts`: of files that hold many texts, likewise; else of files that are items, with `files`: `{resolution?, bundles?}` how documents among them are taken. */
    public function store(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $options = [];
        if ($in->has('labels')) {
            $options = $this->options($in->object('labels'));
        }
        if ($in->has('texts')) {
            $options = ['texts' => true] + $this->options($in->object('texts'));
            if (Format::from($options['format'])->texts(Input::project($request)->codebookVersion()->codebook(), TakeLabels::newId(...), Columns::guessed()) === null) {
                throw InvalidValue::at('texts.format', $options['format'], 'conll, jsonl or csv');
            }
        }
        if ($in->has('files')) {
            if ($options !== []) {
                throw InvalidValue::at('files', $in->raw('files'), 'nothing, since these are labels or texts');
            }
            $wish = Wish::fromFields($in->object('files'))->toArray();
            $options = $wish === [] ? [] : ['files' => $wish];
        }
        $import = Import::query()->create(['project_id' => Input::project($request)->id, 'user_id' => Input::actor($request)->user->id, 'again' => $in->bool('again'), 'options' => $options, 'labels' => null])->refresh();

        return new JsonResponse($this->shape($import), 201);
    }

    /** Takes the label files in that lay beside the pictures of an import. */
    public function beside(Request $request): JsonResponse
    {
        $source = $this->import($request);
        $options = $this->options(Input::body($request));
        if ($source->noticed === []) {
            throw Refusal::because('nothing_beside', 'no label files lie beside the pictures of this import, or they were kept too long ago; bring them in as labels');
        }
        Codebooks::mustBeSteady($source->project_id);
        $import = DB::transaction(static function () use ($request, $source, $options): Import {
            $import = Import::query()->create(['project_id' => $source->project_id, 'user_id' => Input::actor($request)->user->id, 'state' => 'working', 'options' => $options + ['beside' => $source->id], 'labels' => null])->refresh();
            dispatch(new TakeLabelFile($import->id));

            return $import;
        });

        return new JsonResponse($this->shape($import->refresh()), 201);
    }

    /** @return array{format: string, as: string, empty: string} */
    private function options(Fields $labels): array
    {
        $path = $labels->path(...);

        return [
            'format' => (Format::tryFrom($labels->string('format', 20)) ?? throw InvalidValue::at($path('format'), $labels->raw('format'), implode(', ', array_column(Format::cases(), 'value'))))->value,
            'as' => in_array($as = $labels->optionalString('as', 20) ?? 'labels', ['labels', 'suggestions'], true) ? $as : throw InvalidValue::at($path('as'), $as, 'labels or suggestions'),
            'empty' => in_array($empty = $labels->optionalString('empty', 20) ?? 'unlabelled', ['unlabelled', 'nothing'], true) ? $empty : throw InvalidValue::at($path('empty'), $empty, 'unlabelled or nothing'),
        ];
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape($this->import($request)));
    }

    /** What became of the files: those still on their way and those with something to say first. */
    public function files(Request $request): JsonResponse
    {
        $files = $this->import($request)->files()->orderByRaw("case state when 'refused' then 0 when 'receiving' then 1 when 'received' then 2 when 'known' then 3 when 'passed' then 4 else 5 end")->orderBy('path')->limit(500)->get();

        return new JsonResponse(['data' => $files->map(self::file(...))->all()]);
    }

    public function upload(Request $request): JsonResponse
    {
        $in = Input::body($request);

        return new JsonResponse(self::file($this->uploads->begin($this->import($request), [['path' => $in->string('path', 1000), 'bytes' => $in->int('bytes', 0)]])[0]), 201);
    }

    /** Many at once, which spares a folder of small files half its requests. */
    public function uploads(Request $request): JsonResponse
    {
        $files = [];
        foreach (Input::body($request)->objects('files') as $file) {
            $files[] = ['path' => $file->string('path', 1000), 'bytes' => $file->int('bytes', 0)];
        }
        if ($files === [] || count($files) > self::ANNOUNCED) {
            throw InvalidValue::at('files', count($files).' files', '1 to '.self::ANNOUNCED.' files');
        }

        return new JsonResponse(['data' => array_map(self::file(...), $this->uploads->begin($this->import($request), $files))], 201);
    }

    /** One piece of a file, as the raw body; `offset` says where it belongs. */
    public function piece(Request $request): JsonResponse
    {
        $file = $this->import($request)->files()->findOrFail(Input::id($request, 'file'));
        $offset = $request->query('offset');
        if (! is_string($offset) || ! ctype_digit($offset)) {
            throw InvalidValue::at('offset', $offset, 'the number of bytes sent before');
        }
        $limit = config()->integer('skeno.upload.piece_bytes');
        if (strlen($request->getContent()) > $limit) {
            throw Refusal::because('piece_too_large', "a piece has at most {$limit} bytes");
        }
        /** @var resource $piece */
        $piece = $request->getContent(true);

        return new JsonResponse(self::file($this->uploads->append($file, (int) $offset, $piece)));
    }

    /** No more files will come. */
    public function finish(Request $request): JsonResponse
    {
        $import = $this->import($request);
        if ($import->state === 'receiving') {
            if ($import->isOfLabels()) {
                Codebooks::mustBeSteady($import->project_id);
            }
            $in = Input::body($request);
            if ($in->has('columns') && ($import->options['texts'] ?? false) === true) {
                $import->update(['options' => ['columns' => Columns::fromArray($in->raw('columns'))->toArray()] + $import->options]);
            }
            $this->uploads->finish($import);
        }

        return new JsonResponse($this->shape($import->refresh()));
    }

    /** What lies in a table of texts that has arrived, to be seen before it is taken. */
    public function columns(Request $request): JsonResponse
    {
        $import = $this->import($request);
        $file = $import->files()->where('state', 'received')->orderBy('path')->first();
        if ($file === null || ($import->options['texts'] ?? false) !== true) {
            throw Refusal::because('nothing_arrived', 'no table of texts has arrived whole');
        }
        try {
            return new JsonResponse((new Table($import->options['format'] === Format::Jsonl->value, Columns::guessed()))->look($this->uploads->place($file)));
        } catch (UnreadableLabels $e) {
            throw Refusal::because('not_a_table', str_replace('"'.basename($this->uploads->place($file)).'"', "\"{$file->path}\"", $e->getMessage()));
        }
    }

    /** Stops an import, or drops one that failed: what was taken stays. */
    public function cancel(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape($this->uploads->cancel($this->import($request))));
    }

    public function retry(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape($this->uploads->retry($this->import($request))));
    }

    /** What did not come in, or what the check found, a page at a time: `list` (skipped or findings), `offset?`. */
    public function report(Request $request): JsonResponse
    {
        $list = $request->query('list');
        if ($list !== 'skipped' && $list !== 'findings') {
            throw InvalidValue::at('list', $list, 'skipped or findings');
        }
        $offset = filter_var($request->query('offset', '0'), FILTER_VALIDATE_INT);
        if ($offset === false || $offset < 0) {
            throw InvalidValue::at('offset', $request->query('offset'), 'a whole number from 0');
        }
        $report = $this->import($request)->labels ?? [];
        $all = is_array($report[$list] ?? null) ? $report[$list] : [];

        return new JsonResponse(['data' => array_slice($all, $offset, self::PAGE), 'listed' => count($all), 'total' => $report["{$list}_count"] ?? count($all), 'next' => $offset + self::PAGE < count($all) ? $offset + self::PAGE : null]);
    }

    private function import(Request $request): Import
    {
        return Input::project($request)->imports()->with('user')->findOrFail(Input::id($request, 'import'));
    }

    /** @return array<string, mixed> */
    private function shape(Import $import): array
    {
        $counts = $import->files()->groupBy('state')->selectRaw('state, count(*) as n')->pluck('n', 'state')->map(static fn (mixed $n): int => (int) $n)->all();

        return [
            'id' => $import->id,
            'state' => $import->state,
            'at' => $import->created_at->toIso8601ZuluString(),
            'by' => $import->user->name ?? '',
            'options' => (object) $import->options,
            'counts' => (object) $counts,
            'done' => $import->done,
            'labels' => $import->labels === null ? null : ['skipped' => array_slice($import->labels['skipped'] ?? [], 0, self::PAGE), 'findings' => array_slice($import->labels['findings'] ?? [], 0, self::PAGE)] + $import->labels + ['findings_count' => count($import->labels['findings'] ?? [])],
            'noticed' => $import->noticed,
            'error' => $import->error,
            'piece_bytes' => config()->integer('skeno.upload.piece_bytes'),
        ];
    }

    /** @return array<string, mixed> */
    private static function file(ImportFile $file): array
    {
        return ['id' => $file->id, 'path' => $file->path, 'bytes' => $file->bytes, 'received' => $file->received, 'state' => $file->state, 'reason' => $file->reason, 'progress' => $file->progress];
    }
}
