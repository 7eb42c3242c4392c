<?php

declare(strict_types=1);

namespace Skeno\Core\Geometry;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Ulid;

/** Where a relation lies: it leads from one mark to another of its item, `{from, to}`, each the id of a mark. */
final readonly class Join implements Geometry
{
    private function __construct(public string $from, public string $to)
    {
    }

    /** @throws InvalidValue when it leads back to where it begins */
    public static function of(string $from, string $to, string $path = 'join'): self
    {
        return $from !== $to ? new self($from, $to) : throw InvalidValue::at("{$path}.to", $to, 'another mark than the one it leads from');
    }

    /** @throws InvalidValue */
    public static function fromFields(Fields $fields, string $path = 'geometry'): self
    {
        return self::of(Ulid::check($fields->raw('from'), "{$path}.from"), Ulid::check($fields->raw('to'), "{$path}.to"), $path);
    }

    /**
     * The same between the marks that stand for these now; null when one of them has none.
     *
     * @param  array<string, string>  $ids  new ids by old ones
     */
    public function among(array $ids): ?self
    {
        return isset($ids[$this->from], $ids[$this->to]) && $ids[$this->from] !== $ids[$this->to] ? new self($ids[$this->from], $ids[$this->to]) : null;
    }

    public function isEmpty(): bool
    {
        return false;
    }

    /** @return array{from: string, to: string} */
    public function toArray(): array
    {
        return ['from' => $this->from, 'to' => $this->to];
    }
}
