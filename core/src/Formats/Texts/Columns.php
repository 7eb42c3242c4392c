<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Texts;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** Which columns of a table of texts mean what. */
final readonly class Columns
{
    /** Words a column with texts goes by, likeliest first. */
    private const TEXT = ['text', 'note', 'body', 'content', 'sentence', 'document', 'message', 'description'];

    private const ID = ['id', 'path', 'key', 'name', 'file'];

    /**
     * @param  ?string  $text  the column with the text; null: the likeliest
     * @param  ?string  $id  the column that names each text; null: the likeliest, or its place in the file
     * @param  ?list<string>  $facts  columns kept as facts; null: all others
     */
    private function __construct(public ?string $text, public ?string $id, public ?array $facts)
    {
    }

    public static function guessed(): self
    {
        return new self(null, null, null);
    }

    public static function of(?string $text, ?string $id = null): self
    {
        return new self($text, $id, null);
    }

    /**
     * Reads `{text?, id?, facts?}`; an `id` that is empty means that none names them.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'columns'): self
    {
        $fields = Fields::of($data, $path);

        return new self($fields->optionalString('text', 200), $fields->optionalString('id', 200), $fields->has('facts') ? $fields->strings('facts') : null);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return array_filter(['text' => $this->text, 'id' => $this->id, 'facts' => $this->facts], static fn (mixed $value): bool => $value !== null);
    }

    /**
     * The same with every column named, where a file has these.
     *
     * @param  list<string>  $names
     * @return array{text: ?string, id: ?string, facts: list<string>} no text where none is likely
     *
     * @throws InvalidValue when one that is asked for is not there
     */
    public function among(array $names): array
    {
        foreach (array_filter([$this->text, $this->id === '' ? null : $this->id, ...($this->facts ?? [])], is_string(...)) as $wanted) {
            if (! in_array($wanted, $names, true)) {
                throw InvalidValue::at('columns', $wanted, 'a column of the file: '.implode(', ', array_slice($names, 0, 12)));
            }
        }
        $likely = static function (array $words) use ($names): ?string {
            foreach ($words as $word) {
                foreach ($names as $name) {
                    if (mb_strtolower($name) === $word) {
                        return $name;
                    }
                }
            }

            return null;
        };
        $text = $this->text ?? $likely(self::TEXT);
        $id = $this->id ?? $likely(self::ID);
        $id = $id === '' || $id === $text ? null : $id;

        return ['text' => $text, 'id' => $id, 'facts' => $this->facts ?? array_values(array_filter($names, static fn (string $name): bool => $name !== $text && $name !== $id))];
    }
}
