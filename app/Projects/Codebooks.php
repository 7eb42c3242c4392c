<?php

declare(strict_types=1);

namespace App\Projects;

use App\Http\Refusal;
use App\Jobs\ApplyCodebookChange;
use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Census;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookChange as Change;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Skeleton;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Remap;

/** The versions of a project's codebook, and the way of its labels from one to the next. */
final class Codebooks
{
    /**
     * What a new codebook would do to the labels there are.
     *
     * @throws InvalidValue when the mapping leads nowhere
     */
    public function effect(Project $project, Codebook $new, Mapping $mapping): Change
    {
        $old = $project->codebookVersion()->codebook();

        return Change::of(new Translation($old, $new, $mapping), $this->census($project, $old, $new));
    }

    /**
     * Saves a new version. Where labels have to be put into new words this is work for a job: the change is returned instead, and
     * the version comes into force when it is done; until then edits of the project wait.
     *
     * @throws Refusal when another version came in between, or labels would lose their meaning
     */
    public function change(Project $project, Codebook $new, Mapping $mapping, int $base, string $note, ?User $author): CodebookVersion|CodebookChange
    {
        return DB::transaction(function () use ($project, $new, $mapping, $base, $note, $author): CodebookVersion|CodebookChange {
            self::mustBeSteady($project->id);
            $this->mustBeUnread($project);
            $latest = $project->codebookVersion();
            if ($latest->version !== $base) {
                throw Refusal::because('codebook_changed', "somebody has saved version {$latest->version} meanwhile; yours is still on this page", 409, ['version' => $latest->version]);
            }
            if ($mapping->isEmpty() && $latest->codebook()->toArray() === $new->toArray()) {
                return $latest;
            }
            $effect = $this->effect($project, $new, $mapping);
            $orphans = $effect->orphans();
            if ($orphans !== []) {
                throw Refusal::because('labels_orphaned', 'labels in use would lose their meaning: '.implode('; ', array_column(array_slice($orphans, 0, 3), 'message')), 409, ['orphans' => $orphans]);
            }
            $record = ['project_id' => $project->id, 'body' => $new->toJson(), 'mapping' => $mapping->rules, 'report' => $effect->report(), 'note' => $note, 'created_by' => $author?->id];
            if (! $effect->rewrites()) {
                return CodebookVersion::query()->create(['version' => $base + 1] + $record)->refresh();
            }
            $change = CodebookChange::query()->create(['base' => $base, 'total' => $this->marks($project->id)->count()] + $record)->refresh();
            dispatch(new ApplyCodebookChange($change->id))->afterCommit();

            return $change;
        });
    }

    /** @throws Refusal while labels are being put into the words of a new codebook */
    public static function mustBeSteady(int $project): void
    {
        $change = self::underWay($project);
        if ($change !== null) {
            throw Refusal::because('codebook_changing', "the codebook of this project is being changed, {$change->done} of {$change->total} marks are done; what you do is kept and goes on in a moment", 503);
        }
    }

    /** @throws Refusal while a release or an import of labels works with the words of the present codebook */
    private function mustBeUnread(Project $project): void
    {
        $release = $project->releases()->whereIn('state', ['waiting', 'working'])->first();
        if ($release !== null) {
            throw Refusal::because('busy', "release {$release->number} is being frozen under the present codebook; save again when it is done");
        }
        if ($project->imports()->where('state', 'working')->where('options', '!=', '[]')->exists()) {
            throw Refusal::because('busy', 'labels are being taken in under the present codebook; save again when they are');
        }
    }

    public static function underWay(int $project): ?CodebookChange
    {
        return CodebookChange::query()->where('project_id', $project)->where('state', 'working')->first();
    }

    /**
     * From the words of an earlier version to those of the latest, one step for each version between.
     *
     * @return list<Remap>
     *
     * @throws InvalidValue when there is no such version
     */
    public function steps(Project $project, int $from): array
    {
        $steps = [];
        $old = null;
        foreach ($this->versions($project, $from) as $version) {
            $new = $version->codebook();
            if ($old !== null) {
                $steps[] = new Remap(new Translation($old, $new, Mapping::fromArray($version->mapping)));
            }
            $old = $new;
        }

        return $steps;
    }

    /** @return list<Codebook> from a version on, oldest first */
    public function since(Project $project, int $from): array
    {
        return array_map(static fn (CodebookVersion $version): Codebook => $version->codebook(), $this->versions($project, $from));
    }

    /** @return list<CodebookVersion> */
    private function versions(Project $project, int $from): array
    {
        $versions = array_values($project->codebooks()->where('version', '>=', $from)->orderBy('version')->get()->all());

        return ($versions[0]->version ?? null) === $from ? $versions : throw InvalidValue::at('codebook', $from, 'a version of the codebook');
    }

    /** @return \Illuminate\Database\Eloquent\Builder<MarkRow> */
    public function marks(int $project): \Illuminate\Database\Eloquent\Builder
    {
        return MarkRow::query()->where('project_id', $project)->whereNull('deleted_at');
    }

    private function census(Project $project, Codebook $old, Codebook $new): Census
    {
        $marks = $answers = $tags = $nodes = [];
        $stored = static fn () => DB::table('marks')->where('project_id', $project->id)->whereNull('deleted_at');
        foreach ($stored()->where('kind', '!=', ItemAnswers::KIND)->groupBy('class', 'kind')->selectRaw('class, kind, count(*) as n')->get() as $row) {
            $marks[(string) $row->class][(string) $row->kind] = (int) $row->n;
        }
        foreach ($stored()->whereNotIn('answers', ['{}', '[]'])->groupBy('class', 'answers')->selectRaw('class, answers, count(*) as n')->get() as $row) {
            foreach ((array) json_decode((string) $row->answers, true) as $question => $answer) {
                $json = (string) json_encode($answer);
                $answers[(string) $row->class][(string) $question][$json] = ($answers[(string) $row->class][(string) $question][$json] ?? 0) + (int) $row->n;
            }
        }
        foreach ($stored()->where('kind', ItemAnswers::KIND)->where('tags', '!=', '[]')->groupBy('tags')->selectRaw('tags, count(*) as n')->get() as $row) {
            foreach ((array) json_decode((string) $row->tags, true) as $tag) {
                $tags[(string) $tag] = ($tags[(string) $tag] ?? 0) + (int) $row->n;
            }
        }
        // nodes are inside the geometry: they are counted only where a skeleton may lose one
        $keys = static fn (Codebook $codebook): array => array_map(static fn (Skeleton $skeleton): array => array_keys($skeleton->nodes), $codebook->skeletons);
        if ($keys($old) !== $keys($new)) {
            foreach ($stored()->where('kind', 'skeleton')->select('class', 'geometry')->cursor() as $row) {
                foreach (array_keys((array) (json_decode((string) $row->geometry, true)['nodes'] ?? [])) as $node) {
                    $nodes[(string) $row->class][(string) $node] = ($nodes[(string) $row->class][(string) $node] ?? 0) + 1;
                }
            }
        }

        return new Census($marks, $answers, $tags, $nodes);
    }
}
