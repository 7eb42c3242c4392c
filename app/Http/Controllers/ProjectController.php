<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Actor;
use App\Http\Input;
use App\Models\Membership;
use App\Models\Project;
use App\Models\Proposal;
use App\Projects\Progress;
use App\Projects\Projects;
use App\Work\ProposalShape;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\InvalidValue;

/** Projects, and how far they are. */
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

        return new JsonResponse(['data' => $query->get()->map(fn (Project $project): array => $this->shape($project, $actor) + ['states' => (object) $this->progress->states($project), 'proposals' => $this->open($project)->where('kind', '!=', ProposalShape::QUESTION)->count(), 'questions' => $this->open($project)->where('kind', ProposalShape::QUESTION)->count()])->all()]);
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
        $project->slip_guard = $in->bool('slip_guard', $project->slip_guard);
        $project->require_seen = $in->bool('require_seen', $project->require_seen);
        $zoom = $in->optionalNumber('seen_zoom') ?? $project->seen_zoom;
        $project->seen_zoom = $zoom >= 0.1 && $zoom <= 8 ? $zoom : throw InvalidValue::at('seen_zoom', $zoom, '0.1 to 8 px of the screen for a px of the picture');
        $project->save();

        return new JsonResponse($this->shape($project, Input::actor($request)));
    }

    public function progress(Request $request): JsonResponse
    {
        return new JsonResponse($this->progress->of(Input::project($request)));
    }

    /** @return \Illuminate\Database\Eloquent\Builder<Proposal> */
    private function open(Project $project): \Illuminate\Database\Eloquent\Builder
    {
        return Proposal::query()->where('project_id', $project->id)->where('state', 'open');
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
            'slip_guard' => $project->slip_guard,
            'require_seen' => $project->require_seen,
            'seen_zoom' => $project->seen_zoom,
            'role' => $actor->roleIn($project)?->value,
            'abilities' => $actor->abilities($project),
            'codebook_version' => $project->codebooks()->max('version'),
        ];
    }
}
