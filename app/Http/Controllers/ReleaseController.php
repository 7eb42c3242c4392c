<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\Edition;
use App\Models\Release;
use App\Releases\Preview;
use App\Releases\Snapshots;
use App\Releases\WriteEdition;
use App\Support\Job;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Yolo\YoloLayout;
use Skeno\Core\InvalidValue;
use Skeno\Core\Release\ChosenFrames;
use Skeno\Core\Release\Recipe;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** Releases: frozen by a recipe, written in any format at any time. */
final class ReleaseController
{
    public function __construct(private readonly Snapshots $snapshots)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $found = Input::project($request)->releases()->with(['author', 'editions'])->orderByDesc('number')->get();

        return new JsonResponse(['data' => $found->map($this->shape(...))->all()]);
    }

    /** What a recipe would take now. */
    public function preview(Request $request, Preview $preview): JsonResponse
    {
        return new JsonResponse($this->census($preview->of(Input::project($request), $this->recipe($request))->toArray()));
    }

    public function store(Request $request): JsonResponse
    {
        $release = $this->snapshots->begin(Input::project($request), Input::actor($request)->user, $this->recipe($request), Input::body($request)->optionalString('note', 200) ?? '', asJob: true)->refresh();

        return new JsonResponse($this->shape($release->load(['author', 'editions'])), 201);
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape($this->release($request)));
    }

    /** Writes the release in a format: `{format, pictures?}`. Asked for again, it is the same file. */
    public function write(Request $request): JsonResponse
    {
        $release = $this->release($request);
        $in = Input::body($request);
        if ($release->state !== 'done') {
            throw Refusal::because('release_not_ready', "the release is {$release->state}; it can be written once it is frozen");
        }
        $format = Format::tryFrom($in->string('format', 20)) ?? throw InvalidValue::at('format', $in->raw('format'), implode(', ', array_column(Format::cases(), 'value')));
        $wanted = ['release_id' => $release->id, 'format' => $format, 'pictures' => $in->bool('pictures', true), 'layout' => $this->layout($format, $in->optionalString('layout', 20)), 'frames' => self::frames($format, $in->optionalString('frames', 200))];
        $edition = DB::transaction(static function () use ($wanted): Edition {
            $edition = Edition::query()->firstOrCreate($wanted)->refresh();
            if ($edition->state === 'failed' || ($edition->state === 'waiting' && ! Job::isQueued("edition:{$edition->id}"))) {
                $edition->update(['state' => 'waiting', 'error' => '']);
                dispatch(new WriteEdition($edition->id));
            }

            return $edition;
        });

        return new JsonResponse($this->edition($edition->refresh()), 202);
    }

    /** Stops a release that is being frozen, or drops one that failed. A frozen one stays. */
    public function cancel(Request $request): Response
    {
        $this->snapshots->cancel($this->release($request));

        return new Response('', 204);
    }

    public function retry(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape($this->snapshots->retry($this->release($request))->load(['author', 'editions'])));
    }

    /** Stops the writing of a format, or drops one that failed. */
    public function drop(Request $request): Response
    {
        if ($this->release($request)->editions()->whereKey(Input::id($request, 'edition'))->where('state', '!=', 'done')->delete() === 0) {
            throw Refusal::because('edition_done', 'it is written already; it stays with the release');
        }

        return new Response('', 204);
    }

    public function download(Request $request): BinaryFileResponse
    {
        $release = $this->release($request);
        $edition = $release->editions()->with('release')->where('state', 'done')->findOrFail(Input::id($request, 'edition'));
        $name = Str::slug($release->project->name)."-{$release->number}-{$edition->format->value}".($edition->layout === '' ? '' : "-{$edition->layout}").($edition->frames === '' ? '' : '-'.Str::slug(str_replace([':', ','], '-', $edition->frames))).($edition->pictures ? '' : '-labels').'.zip';
        $response = new BinaryFileResponse(WriteEdition::file($edition), 200, ['Content-Type' => 'application/zip']);

        return $response->setContentDisposition('attachment', $name);
    }

    /** How an edition names its layout: empty for the first. */
    private function layout(Format $format, ?string $word): string
    {
        $layout = $word === null ? YoloLayout::Folders : YoloLayout::tryFrom($word) ?? throw InvalidValue::at('layout', $word, implode(' or ', array_column(YoloLayout::cases(), 'value')));
        if ($word !== null && ! $format->hasLayouts()) {
            throw InvalidValue::at('layout', $word, "nothing, since {$format->label()} has one layout");
        }

        return $layout === YoloLayout::Folders ? '' : $layout->value;
    }

    /** How an edition names the frames of clips it holds: empty for those with keys, and where tracks are held whole. */
    private static function frames(Format $format, ?string $word): string
    {
        $frames = ChosenFrames::parse($word ?? 'keys')->toWord();

        return $frames === 'keys' || $format->holdsTracks() ? '' : $frames;
    }

    private function release(Request $request): Release
    {
        return Input::project($request)->releases()->with(['author', 'editions', 'project'])->where('number', Input::id($request, 'number'))->firstOrFail();
    }

    private function recipe(Request $request): Recipe
    {
        return Recipe::fromArray(Input::body($request)->map('recipe'), Input::project($request)->codebookVersion()->codebook());
    }

    /** @return array<string, mixed> */
    private function shape(Release $release): array
    {
        return [
            'number' => $release->number,
            'state' => $release->state,
            'note' => $release->note,
            'recipe' => $release->recipe,
            'census' => $release->census === null ? null : $this->census($release->census),
            'codebook_version' => $release->codebook_version,
            'sha256' => $release->sha256,
            'error' => $release->error,
            'by' => $release->author->name ?? '',
            'at' => $release->created_at->toIso8601ZuluString(),
            'editions' => $release->editions->sortBy('id')->values()->map($this->edition(...))->all(),
        ];
    }

    /**
     * @param  array<string, mixed>  $census
     * @return array<string, mixed>
     */
    private function census(array $census): array
    {
        return ['items' => $census['items'], 'marks' => $census['marks'], 'classes' => (object) $census['classes'], 'split' => (object) $census['split'], 'sizes' => (object) $census['sizes']] + (isset($census['relations']) ? ['relations' => (object) $census['relations']] : []);
    }

    /** @return array<string, mixed> */
    private function edition(Edition $edition): array
    {
        return ['id' => $edition->id, 'format' => $edition->format->value, 'pictures' => $edition->pictures, 'layout' => $edition->layout, 'frames' => $edition->frames, 'state' => $edition->state, 'bytes' => $edition->bytes, 'sha256' => $edition->sha256, 'error' => $edition->error, 'mapping' => $edition->report['mapping'] ?? [], 'compared' => $edition->report['compared'] ?? null];
    }
}
