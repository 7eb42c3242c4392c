<?php

declare(strict_types=1);

namespace App\Codebooks;

use App\Models\CodebookChange;
use App\Models\CodebookVersion;
use App\Models\Project;
use App\Support\Refusal;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Mapping;
use Skeno\Core\Codebook\Translation;
use Skeno\Core\InvalidValue;
use Skeno\Core\Marks\Remap;

/** The versions of a project's codebook, and the steps from the words of one to those of the next. */
final class Codebooks
{
    /** @throws Refusal while labels are being put into the words of a new codebook */
    public static function mustBeSteady(int $project): void
    {
        $change = self::underWay($project);
        if ($change !== null) {
            throw Refusal::because('codebook_changing', $change->state === CodebookChange::CHECKING ? 'the codebook of this project is being changed; what you do is kept and goes on in a moment' : "the codebook of this project is being changed, {$change->done} of {$change->total} marks are done; what you do is kept and goes on in a moment");
        }
    }

    public static function underWay(int $project): ?CodebookChange
    {
        return CodebookChange::query()->where('project_id', $project)->whereIn('state', [CodebookChange::CHECKING, 'working'])->first();
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
}
