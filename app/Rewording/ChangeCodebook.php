<?php

declare(strict_types=1);

namespace App\Rewording;

use App\Codebooks\Codebooks;
use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Import;
use App\Models\Project;
use App\Models\Release;
use App\Models\User;
use App\Support\Job;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Codebook\Census;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\CodebookChange as Change;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Skeleton;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\InvalidValue;
use Throwable;

/** Saves new versions of a codebook, and says before what becomes of the labels. */
final class ChangeCodebook
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
     * the version comes into force when it is done; until then edits of the project wait. They wait too while it is looked up which words
     * are in use, which takes seconds at a million marks: between two short transactions, so that nobody else's work does.
     *
     * @throws Refusal when another version came in between, or labels would lose their meaning
     */
    public function change(Project $project, Codebook $new, Mapping $mapping, int $base, string $note, ?User $author): CodebookVersion|CodebookChange
    {
        $record = ['project_id' => $project->id, 'body' => $new->toJson(), 'mapping' => $mapping->rules, 'note' => $note, 'created_by' => $author?->id];
        $change = $this->begin($project, $new, $mapping, $base, $record);
        if ($change instanceof CodebookVersion) {
            return $change;
        }
        try {
            $effect = $this->effect($project, $new, $mapping);
            $total = $effect->rewrites() ? RewriteMarks::marks($project->id)->count() + RewriteMarks::sayings($project->id)->count() : 0;

            return DB::transaction(function () use ($change, $effect, $total, $base, $record): CodebookVersion|CodebookChange {
                $orphans = $effect->orphans();
                if ($orphans !== []) {
                    throw Refusal::because('labels_orphaned', 'labels in use would lose their meaning: '.implode('; ', array_column(array_slice($orphans, 0, 3), 'message')), ['orphans' => $orphans]);
                }
                if (CodebookChange::query()->whereKey($change->id)->where('state', CodebookChange::CHECKING)->doesntExist()) {
                    throw Refusal::because('busy', 'it took too long to look up which words are in use; save again');
                }
                if (! $effect->rewrites()) {
                    $change->delete();

                    return CodebookVersion::query()->create(['version' => $base + 1, 'report' => $effect->report()] + $record)->refresh();
                }
                $change->update(['state' => 'working', 'report' => $effect->report(), 'total' => $total]);
                dispatch(new ApplyCodebookChange($change->id));

                return $change;
            });
        } catch (Throwable $e) {
            // nothing has been changed yet; whoever waits for it goes on
            CodebookChange::query()->whereKey($change->id)->where('state', CodebookChange::CHECKING)->delete();
            throw $e;
        }
    }

    /** @param  array<string, mixed>  $record */
    private function begin(Project $project, Codebook $new, Mapping $mapping, int $base, array $record): CodebookVersion|CodebookChange
    {
        return DB::transaction(function () use ($project, $new, $mapping, $base, $record): CodebookVersion|CodebookChange {
            Codebooks::mustBeSteady($project->id);
            $this->mustBeUnread($project);
            $latest = $project->codebookVersion();
            if ($latest->version !== $base) {
                throw Refusal::because('codebook_changed', "somebody has saved version {$latest->version} meanwhile; yours is still on this page", ['version' => $latest->version]);
            }
            if ($mapping->isEmpty() && $latest->codebook()->toArray() === $new->toArray()) {
                return $latest;
            }

            return CodebookChange::query()->create(['base' => $base, 'state' => CodebookChange::CHECKING, 'report' => [], 'total' => 0] + $record)->refresh();
        });
    }

    /** @throws Refusal while a release or an import of labels works with the words of the present codebook */
    private function mustBeUnread(Project $project): void
    {
        // one whose job is gone does not stand in the way: it begins anew under whatever codebook there is
        $release = $project->releases()->whereIn('state', ['waiting', 'working'])->get()->first(static fn (Release $release): bool => Job::isQueued("release:{$release->id}"));
        if ($release !== null) {
            throw Refusal::because('busy', "release {$release->number} is being frozen under the present codebook; save again when it is done");
        }
        if ($project->imports()->where('state', 'working')->where('options', '!=', '[]')->get()->contains(static fn (Import $import): bool => Job::isQueued("labels:{$import->id}"))) {
            throw Refusal::because('busy', 'labels are being taken in under the present codebook; save again when they are');
        }
    }

    private function census(Project $project, Codebook $old, Codebook $new): Census
    {
        $marks = $answers = $tags = $nodes = [];
        $stored = static fn () => DB::table('marks')->where('project_id', $project->id)->whereNull('deleted_at');
        $said = static fn () => DB::table('layers')->where('project_id', $project->id);
        foreach ($stored()->groupBy('class', 'kind')->selectRaw('class, kind, count(*) as n')->get() as $row) {
            $marks[(string) $row->class][(string) $row->kind] = (int) $row->n;
        }
        $answered = [...$stored()->whereNotIn('answers', ['{}', '[]'])->groupBy('class', 'answers')->selectRaw('class, answers, count(*) as n')->get(), ...$said()->whereNotIn('answers', ['{}', '[]'])->groupBy('answers')->selectRaw("'' as class, answers, count(*) as n")->get()];
        // of tracks also what their keys answer
        array_push($answered, ...DB::table('mark_keys')->join('marks', 'marks.id', '=', 'mark_keys.mark_id')->where('marks.project_id', $project->id)->whereNull('marks.deleted_at')->whereNull('mark_keys.deleted_at')
            ->whereNotIn('mark_keys.answers', ['{}', '[]'])->groupBy('marks.class', 'mark_keys.answers')->selectRaw('marks.class as class, mark_keys.answers as answers, count(*) as n')->get());
        foreach ($answered as $row) {
            foreach ((array) json_decode((string) $row->answers, true) as $question => $answer) {
                $json = (string) json_encode($answer);
                $answers[(string) $row->class][(string) $question][$json] = ($answers[(string) $row->class][(string) $question][$json] ?? 0) + (int) $row->n;
            }
        }
        foreach ($said()->where('tags', '!=', '[]')->groupBy('tags')->selectRaw('tags, count(*) as n')->get() as $row) {
            foreach ((array) json_decode((string) $row->tags, true) as $tag) {
                $tags[(string) $tag] = ($tags[(string) $tag] ?? 0) + (int) $row->n;
            }
        }
        // what is said along items with an axis
        foreach ($said()->where('stretches', '!=', '[]')->select('stretches')->cursor() as $row) {
            foreach ((array) json_decode((string) $row->stretches, true) as $stretch) {
                if (isset($stretch['tag'])) {
                    $tags[(string) $stretch['tag']] = ($tags[(string) $stretch['tag']] ?? 0) + 1;
                } else {
                    $json = (string) json_encode($stretch['answer'] ?? null);
                    $answers[''][(string) $stretch['question']][$json] = ($answers[''][(string) $stretch['question']][$json] ?? 0) + 1;
                }
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
