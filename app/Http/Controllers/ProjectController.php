<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Actor;
use App\Http\Input;
use App\Models\CodebookVersion;
use App\Models\HandbookVersion;
use App\Models\Membership;
use App\Models\Project;
use App\Projects\Progress;
use App\Projects\Projects;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\Codebook\Palette;
use Skeno\Core\InvalidValue;

/** Projects and what describes them: codebook and handbook. */
final class ProjectController
{
    public function __construct(private readonly Projects $projects, private readonly Progress $progress)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $actor = new Actor($request->user());
        $query = Project::query()->orderBy('name');
        if (! $actor->user->is_owner) {
            $query->whereIn('id', Membership::query()->where('user_id', $actor->user->id)->select('project_id'));
        }

        return new JsonResponse(['data' => $query->get()->map(fn (Project $project): array => $this->shape($project, $actor) + ['states' => (object) $this->progress->states($project)])->all()]);
    }

    public function store(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $codebook = Codebook::fromArray($in->has('codebook') ? $in->raw('codebook') : ['skeno' => 'codebook/1', 'classes' => []]);
        $project = $this->projects->create($in->string('name', 200), $in->optionalString('description') ?? '', $in->optionalString('group', 120) ?? '', $codebook, Input::actor($request)->user);

        return new JsonResponse($this->shape($project, Input::actor($request)), 201);
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse($this->shape(Input::project($request), Input::actor($request)));
    }

    public function update(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $in = Input::body($request);
        $name = $in->optionalString('name', 200);
        if ($name !== null) {
            $name = trim($name);
            if ($name === '' || mb_strlen($name) > 120 || Project::query()->where('name', $name)->whereKeyNot($project->id)->exists()) {
                throw InvalidValue::at('name', $name, 'a name of 1 to 120 characters that no other project has');
            }
            $project->name = $name;
        }
        $project->description = $in->optionalString('description') ?? $project->description;
        $project->group = $in->optionalString('group', 120) ?? $project->group;
        $project->own_review = $in->bool('own_review', $project->own_review);
        $project->save();

        return new JsonResponse($this->shape($project, Input::actor($request)));
    }

    public function progress(Request $request): JsonResponse
    {
        return new JsonResponse($this->progress->of(Input::project($request)));
    }

    public function codebook(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $version = $request->query('version');
        $row = is_string($version) && ctype_digit($version) ? $project->codebooks()->where('version', (int) $version)->firstOrFail() : $project->codebookVersion();

        return new JsonResponse($this->codebookShape($row));
    }

    public function codebookVersions(Request $request): JsonResponse
    {
        $found = Input::project($request)->codebooks()->with('author')->orderByDesc('version')->get();

        return new JsonResponse(['data' => $found->map(static fn (CodebookVersion $row): array => ['version' => $row->version, 'note' => $row->note, 'by' => $row->author->name ?? '', 'at' => $row->created_at->toIso8601ZuluString()])->all()]);
    }

    /** What a codebook says and would do, without saving it. */
    public function checkCodebook(Request $request): JsonResponse
    {
        $in = Input::body($request);
        try {
            $new = Codebook::fromArray($in->raw('document'));
        } catch (InvalidCodebook $e) {
            return new JsonResponse(['errors' => $e->errors, 'not_yet_used' => [], 'orphans' => []]);
        }

        return new JsonResponse(['errors' => [], 'not_yet_used' => $new->notYetUsed(), 'orphans' => $this->projects->effect(Input::project($request), $new)->orphans]);
    }

    public function saveCodebook(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $row = $this->projects->changeCodebook(Input::project($request), Codebook::fromArray($in->raw('document')), $in->int('base', 0), $in->optionalString('note', 200) ?? '', Input::actor($request)->user);

        return new JsonResponse($this->codebookShape($row));
    }

    public function handbook(Request $request): JsonResponse
    {
        $row = HandbookVersion::query()->where('project_id', Input::project($request)->id)->orderByDesc('version')->first();

        return new JsonResponse(['version' => $row->version ?? 0, 'body' => $row->body ?? '']);
    }

    public function saveHandbook(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $row = $this->projects->changeHandbook(Input::project($request), $in->string('body', 500_000), $in->int('base', 0), Input::actor($request)->user);

        return new JsonResponse(['version' => $row->version, 'body' => $row->body]);
    }

    /** @return array<string, mixed> */
    private function shape(Project $project, Actor $actor): array
    {
        return [
            'id' => $project->id,
            'name' => $project->name,
            'description' => $project->description,
            'group' => $project->group,
            'own_review' => $project->own_review,
            'role' => $actor->roleIn($project)?->value,
            'abilities' => $actor->abilities($project),
        ];
    }

    /** @return array<string, mixed> */
    private function codebookShape(CodebookVersion $row): array
    {
        $codebook = $row->codebook();
        $classes = [];
        foreach ($codebook->classes as $class) {
            $classes[] = ['key' => $class->key, 'color' => $class->color, 'light' => Palette::light($class->color), 'marker' => $class->marker->value];
        }

        return ['version' => $row->version, 'document' => $this->objects($codebook->toArray()), 'looks' => $classes, 'not_yet_used' => $codebook->notYetUsed()];
    }

    /**
     * Empty objects of the document stay objects in JSON.
     *
     * @param  array<string, mixed>  $document
     * @return array<string, mixed>
     */
    private function objects(array $document): array
    {
        foreach (['limits'] as $key) {
            if (($document[$key] ?? null) === []) {
                $document[$key] = (object) [];
            }
        }

        return $document;
    }
}
