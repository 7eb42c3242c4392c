<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Codebooks\Codebooks;
use App\Http\Input;
use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Membership;
use App\Models\Project;
use App\Models\User;
use App\Rewording\ChangeCodebook;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Palette;
use Skeno\Core\Codebook\Template;
use Skeno\Core\People\Role;

/** The codebook of a project: its versions, what a change would do, and what others have described already. */
final class CodebookController
{
    public function __construct(private readonly ChangeCodebook $codebooks)
    {
    }

    public function show(Request $request): JsonResponse
    {
        $project = Input::project($request);
        $version = $request->query('version');
        $row = is_string($version) && ctype_digit($version) ? $project->codebooks()->where('version', (int) $version)->firstOrFail() : $project->codebookVersion();

        return new JsonResponse($this->shape($row));
    }

    public function versions(Request $request): JsonResponse
    {
        $found = Input::project($request)->codebooks()->with('author')->orderByDesc('version')->get();

        return new JsonResponse(['data' => $found->map(static fn (CodebookVersion $row): array => ['version' => $row->version, 'note' => $row->note, 'by' => $row->author->name ?? '', 'at' => $row->created_at->toIso8601ZuluString(), 'report' => $row->report])->all()]);
    }

    /** What a codebook says and would do, without saving it. */
    public function check(Request $request): JsonResponse
    {
        $in = Input::body($request);
        try {
            $new = Codebook::fromArray($in->raw('document'));
        } catch (InvalidCodebook $e) {
            return new JsonResponse(['errors' => $e->errors, 'orphans' => [], 'report' => [], 'rewrites' => false]);
        }
        $effect = $this->codebooks->effect(Input::project($request), $new, Mapping::fromArray($in->raw('mapping') ?? []));

        return new JsonResponse(['errors' => [], 'orphans' => $effect->orphans(), 'report' => $effect->report(), 'rewrites' => $effect->rewrites()]);
    }

    /** 202 while labels are put into the words of the new version; `codebook/change` says how far that is. */
    public function save(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $project = Input::project($request);
        $made = $this->codebooks->change($project, Codebook::fromArray($in->raw('document')), Mapping::fromArray($in->raw('mapping') ?? []), $in->int('base', 0), $in->optionalString('note', 200) ?? '', Input::actor($request)->user);

        return new JsonResponse($this->shape($project->codebookVersion()), $made instanceof CodebookChange && $made->refresh()->state === 'working' ? 202 : 200);
    }

    /** The change under way, if there is one. */
    public function change(Request $request): JsonResponse
    {
        $change = Codebooks::underWay(Input::project($request)->id);

        return new JsonResponse(['change' => $change === null ? null : ['version' => $change->base + 1, 'done' => $change->done, 'total' => $change->total]]);
    }

    /** Codebooks to begin with: the templates, and those of the projects one manages. */
    public function templates(Request $request): JsonResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $projects = Project::query()->orderBy('name')
            ->when(! $user->is_owner, static fn ($query) => $query->whereIn('id', Membership::query()->where('user_id', $user->id)->where('role', Role::Manager)->select('project_id')))
            ->get();

        return new JsonResponse([
            'templates' => array_map(static fn (Template $template): array => ['key' => $template->key, 'name' => $template->name, 'description' => $template->description, 'document' => self::objects($template->codebook->toArray())], Template::all()),
            'projects' => $projects->map(static fn (Project $project): array => ['id' => $project->id, 'name' => $project->name, 'document' => self::objects($project->codebookVersion()->codebook()->toArray())])->all(),
        ]);
    }

    /** @return array<string, mixed> */
    private function shape(CodebookVersion $row): array
    {
        $codebook = $row->codebook();
        $looks = [];
        foreach ($codebook->classes as $class) {
            $looks[] = ['key' => $class->key, 'color' => $class->color, 'light' => Palette::light($class->color), 'marker' => $class->marker->value];
        }

        return ['version' => $row->version, 'document' => self::objects($codebook->toArray()), 'looks' => $looks];
    }

    /**
     * Empty objects of the document stay objects in JSON.
     *
     * @param  array<string, mixed>  $document
     * @return array<string, mixed>
     */
    private static function objects(array $document): array
    {
        if (($document['limits'] ?? null) === []) {
            $document['limits'] = (object) [];
        }

        return $document;
    }
}
