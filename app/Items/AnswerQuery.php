<?php

declare(strict_types=1);

namespace App\Items;

use Illuminate\Contracts\Database\Query\Builder;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\AttributeType;
use Skeno\Core\Codebook\Codebook;

/** Questions and answers in terms of the database: who is asked, and who has said what. */
final class AnswerQuery
{
    /**
     * Only marks of which the question is asked, where it is asked after certain answers.
     *
     * @param  string  $answers  the column, such as `marks.answers`
     */
    public static function asked(Builder $query, Codebook $codebook, Attribute $question, string $answers = 'marks.answers'): void
    {
        foreach ($question->when as $condition) {
            $before = $codebook->attributes[$condition->attribute] ?? null;
            $path = "{$answers}->{$condition->attribute}->value";
            $query->where(static function (Builder $any) use ($condition, $before, $path): void {
                foreach ($condition->any as $value) {
                    $before?->type === AttributeType::Many ? $any->orWhereJsonContains($path, $value) : $any->orWhere($path, $value);
                }
            });
            if ($before !== null && $before->when !== []) {
                self::asked($query, $codebook, $before, $answers);
            }
        }
    }

    /** @param  string  $answer  an option, `yes`, `no`, `no:<way of having no value>`, or `open`: nothing has been said; `is:open` is an option of that name */
    public static function said(Builder $query, Attribute $question, string $answer, string $answers = 'marks.answers'): void
    {
        $path = "{$answers}->{$question->key}";
        $option = str_starts_with($answer, 'is:') ? substr($answer, 3) : $answer;
        match (true) {
            $answer === 'open' => $query->whereNull($path),
            str_starts_with($answer, 'no:') => $query->where("{$path}->no_value", substr($answer, 3)),
            $question->type === AttributeType::YesNo => $query->where("{$path}->value", $answer === 'yes'),
            $question->type === AttributeType::Many => $query->whereJsonContains("{$path}->value", $option),
            default => $query->where("{$path}->value", $option),
        };
    }
}
