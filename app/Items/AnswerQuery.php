<?php

declare(strict_types=1);

namespace App\Items;

use Illuminate\Contracts\Database\Query\Builder;
use Illuminate\Database\Query\Builder as QueryBuilder;
use Illuminate\Support\Facades\DB;
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

    /**
     * @param  string  $answer  an option, `yes`, `no`, `no:<way of having no value>`, or `open`: nothing has been said; `is:open` is an option of that name
     * @param  string  $answers  the column
     * @param  ?string  $key  under which it stands there; null: the question's own
     */
    public static function said(Builder $query, Attribute $question, string $answer, string $answers = 'marks.answers', ?string $key = null): void
    {
        $path = "{$answers}->".($key ?? $question->key);
        $option = str_starts_with($answer, 'is:') ? substr($answer, 3) : $answer;
        match (true) {
            $answer === 'open' => $query->whereNull($path),
            str_starts_with($answer, 'no:') => $query->where("{$path}->no_value", substr($answer, 3)),
            $question->type === AttributeType::YesNo => $query->where("{$path}->value", $answer === 'yes'),
            $question->type === AttributeType::Many => $query->whereJsonContains("{$path}->value", $option),
            default => $query->where("{$path}->value", $option),
        };
    }

    /**
     * Marks of which an answer holds. Of a track, what varies is said by its keys: then it holds somewhere along it; "open" is what nowhere has an answer.
     *
     * @param  Builder  $query  over `marks`
     * @param  ?string  $at  a column: only as it stands at this place of a track
     */
    public static function holds(Builder $query, Attribute $question, string $answer, ?string $at = null): void
    {
        if (! $question->varies) {
            self::said($query, $question, $answer);

            return;
        }
        $query->where(static fn (Builder $either) => $either
            ->where(static function (Builder $plain) use ($question, $answer): void {
                $plain->whereNull('marks.stretches');
                self::said($plain, $question, $answer);
            })
            ->orWhere(static function (Builder $track) use ($question, $answer, $at): void {
                $track->whereNotNull('marks.stretches');
                $answer === 'open' ? $track->whereNotExists(self::answering($question, $at)) : $track->whereExists(self::answeringSo($question, $answer, $at));
            }));
    }

    /** Keys of the mark of the query around it that answer a question, up to a place. */
    private static function answering(Attribute $question, ?string $upTo, string $as = 'k'): QueryBuilder
    {
        // in the words of the partial index `mark_keys_telling`
        return DB::table('mark_keys', $as)->whereColumn("{$as}.mark_id", 'marks.id')->whereNull("{$as}.deleted_at")->whereRaw("({$as}.faulty = 1 or {$as}.answers != '{}')")
            ->whereNotNull("{$as}.answers->{$question->key}")->when($upTo !== null, static fn (QueryBuilder $keys): QueryBuilder => $keys->whereColumn("{$as}.place", '<=', (string) $upTo))->selectRaw('1');
    }

    private static function answeringSo(Attribute $question, string $answer, ?string $at): QueryBuilder
    {
        $keys = self::answering($question, $at);
        self::said($keys, $question, $answer, 'k.answers');
        if ($at !== null) {
            $later = self::answering($question, $at, 'later')->whereColumn('later.place', '>', 'k.place');
            $keys->whereNotExists($later);
        }

        return $keys;
    }
}
