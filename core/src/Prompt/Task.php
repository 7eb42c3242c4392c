<?php

declare(strict_types=1);

namespace Skeno\Core\Prompt;

use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\AttributeType;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Option;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Codebook\Tag;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Json\Lines;

/** What a prompt asks of a text: spans of some classes, answers to some questions about it, tags. */
final readonly class Task
{
    /**
     * @param  list<string>  $classes  keys of those that are drawn as spans
     * @param  list<string>  $questions  keys of those asked of the text as a whole
     * @param  list<string>  $tags  keys of tags of the whole
     */
    private function __construct(public array $classes, public array $questions, public array $tags)
    {
    }

    /** All a codebook asks of texts. */
    public static function all(Codebook $codebook): self
    {
        return new self(
            array_values(array_filter(array_keys($codebook->classes), static fn (string $key): bool => $codebook->classes[$key]->allows(Shape::Span))),
            array_map(static fn (Attribute $attribute): string => $attribute->key, $codebook->itemAttributes()),
            array_map(static fn (Tag $tag): string => $tag->key, $codebook->itemTags()),
        );
    }

    /**
     * Reads `{classes?, questions?, tags?}`, lists of keys.
     *
     * @throws InvalidValue when the codebook has not what is asked for, or nothing is
     */
    public static function fromFields(Fields $in, Codebook $codebook): self
    {
        $all = self::all($codebook);
        $read = [];
        foreach (['classes' => $all->classes, 'questions' => $all->questions, 'tags' => $all->tags] as $name => $known) {
            $read[$name] = array_values(array_unique($in->strings($name)));
            foreach (array_diff($read[$name], $known) as $key) {
                throw InvalidValue::at($in->path($name), $key, $known === [] ? 'nothing: the codebook has none for texts' : implode(', ', $known));
            }
        }
        if ($read['classes'] === [] && $read['questions'] === [] && $read['tags'] === []) {
            throw InvalidValue::at($in->path('classes'), [], 'a class, a question or a tag to ask for');
        }

        return new self($read['classes'], $read['questions'], $read['tags']);
    }

    /** @return array{classes: list<string>, questions: list<string>, tags: list<string>} */
    public function toArray(): array
    {
        return ['classes' => $this->classes, 'questions' => $this->questions, 'tags' => $this->tags];
    }

    /**
     * Reads a task as it was kept, without what a codebook has no more.
     *
     * @param  array{classes: list<string>, questions: list<string>, tags: list<string>}  $task
     * @return ?self null: nothing is left of it
     */
    public static function fromStored(array $task, Codebook $codebook): ?self
    {
        $left = (new self($task['classes'], $task['questions'], $task['tags']))->within($codebook);

        return $left->classes === [] && $left->questions === [] && $left->tags === [] ? null : $left;
    }

    /** The same without what a codebook has no more. */
    public function within(Codebook $codebook): self
    {
        $all = self::all($codebook);

        return new self(array_values(array_intersect($this->classes, $all->classes)), array_values(array_intersect($this->questions, $all->questions)), array_values(array_intersect($this->tags, $all->tags)));
    }

    /** A line for each class: key, name, what it is. */
    public function classesSaid(Codebook $codebook): string
    {
        return $this->lines(array_map(static fn (string $key): array => [$key, $codebook->classes[$key]->name, $codebook->classes[$key]->description], $this->classes));
    }

    public function tagsSaid(Codebook $codebook): string
    {
        return $this->lines(array_map(static fn (string $key): array => [$key, $codebook->tags[$key]->name, $codebook->tags[$key]->description], $this->tags));
    }

    /** A line for each question with what may be answered, and below it one for each choice. */
    public function questionsSaid(Codebook $codebook): string
    {
        $said = [];
        foreach ($this->questions as $key) {
            $question = $codebook->attributes[$key];
            $kind = match ($question->type) {
                AttributeType::One => 'one of its choices',
                AttributeType::Many => 'a list of its choices',
                AttributeType::YesNo => 'true or false',
                AttributeType::Number => 'a number'.($question->min === null ? '' : " from {$question->min}").($question->max === null ? '' : " to {$question->max}"),
                AttributeType::Text => 'words',
                AttributeType::Date => 'a date, YYYY-MM-DD',
                AttributeType::Time => 'a time, HH:MM',
                AttributeType::DateTime => 'a date and time, YYYY-MM-DDTHH:MM',
            };
            $said[] = $this->lines([[$key, "{$question->name} ({$kind})", $question->description]]);
            foreach ($question->options as $option) {
                $said[] = '  '.$this->lines([[$option->key, $option->name, $option->description]]);
            }
        }

        return implode("\n", $said);
    }

    /** How a reply has to look: an example of it in JSON. */
    public function form(Codebook $codebook): string
    {
        $reply = [];
        if ($this->classes !== []) {
            $reply['spans'] = [['class' => $this->classes[0], 'text' => 'the words as they stand there', 'start' => 0, 'end' => 29]];
        }
        if ($this->questions !== []) {
            $reply['answers'] = [$this->questions[0] => $this->example($codebook->attributes[$this->questions[0]])];
        }
        if ($this->tags !== []) {
            $reply['tags'] = [$this->tags[0]];
        }

        return Lines::encode($reply);
    }

    /** @return string|bool|int|list<string> */
    private function example(Attribute $question): string|bool|int|array
    {
        $options = array_map(static fn (Option $option): string => $option->key, $question->options);

        return match ($question->type) {
            AttributeType::One => $options[0] ?? '',
            AttributeType::Many => array_slice($options, 0, 1),
            AttributeType::YesNo => true,
            AttributeType::Number => 1,
            AttributeType::Date => '2026-05-14',
            AttributeType::Time => '08:30',
            AttributeType::DateTime => '2026-05-14T08:30',
            AttributeType::Text => 'words',
        };
    }

    /** @param  list<array{string, string, ?string}>  $rows  key, name, description */
    private function lines(array $rows): string
    {
        return implode("\n", array_map(static fn (array $row): string => "{$row[0]}: {$row[1]}".($row[2] === null || $row[2] === '' ? '' : '. '.trim((string) preg_replace('/\s+/', ' ', $row[2]))), $rows));
    }
}
