<?php

declare(strict_types=1);

namespace App\Work;

use App\Access\Actor;
use App\Items\SpanWords;
use App\Models\MarkRow;
use App\Models\Project;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Workflow\ItemState;

/** Which words were marked as what in a project: those of accepted texts, and a person's own. The same words in another text are offered by them. */
final class Phrases
{
    /** Spans of a class that are looked at, and phrases that are told. */
    private const EACH = 4000;

    private const MOST = 1000;

    /** Characters of a phrase at most: what is longer does not stand in another text. */
    private const LONGEST = 80;

    /** @return list<array{words: string, class: string, count: int}> the most frequent first */
    public function of(Actor $actor, Project $project): array
    {
        $counts = [];
        foreach ($this->classes($project->codebookVersion()->codebook()) as $class) {
            $spans = SpanWords::query()->where('marks.project_id', $project->id)->whereRaw(MarkRow::STANDS)->where('marks.class', $class)
                ->where(static fn ($either) => $either->where('items.state', ItemState::Accepted->value)->orWhere('marks.author_id', $actor->user->id))
                ->limit(self::EACH);
            foreach (SpanWords::read($spans, self::LONGEST + 1) as $words) {
                $fold = mb_strtolower($words, 'UTF-8');
                if ($fold !== '' && mb_strlen($fold, 'UTF-8') <= self::LONGEST) {
                    $counts["{$class} {$fold}"] ??= ['words' => $words, 'class' => $class, 'count' => 0];
                    $counts["{$class} {$fold}"]['count']++;
                }
            }
        }
        usort($counts, static fn (array $a, array $b): int => [$b['count'], $a['words']] <=> [$a['count'], $b['words']]);

        return array_slice($counts, 0, self::MOST);
    }

    /** @return list<string> keys of classes that are drawn as spans */
    private function classes(Codebook $codebook): array
    {
        return array_values(array_map(static fn (LabelClass $class): string => $class->key, array_filter($codebook->classes, static fn (LabelClass $class): bool => $class->allows(Shape::Span))));
    }
}
