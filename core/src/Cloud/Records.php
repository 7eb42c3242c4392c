<?php

declare(strict_types=1);

namespace Skeno\Core\Cloud;

/** Points that are written as records of one length, a field after the other. */
final readonly class Records
{
    /** @param  array<string, array{int, Number}>  $fields  by name: where in the record, and what */
    public function __construct(private array $fields, private int $length, private bool $isLittle = true)
    {
    }

    /**
     * @param  resource  $in  where the first record begins
     * @return iterable<array<string, list<int|float>>> columns by name, some records at a time
     *
     * @throws RefusedCloud when the file ends before
     */
    public function columns($in, int $count): iterable
    {
        for ($read = 0; $read < $count; $read += $some) {
            $some = min(Points::SOME, $count - $read);
            $bytes = (string) stream_get_contents($in, $some * $this->length);
            if (strlen($bytes) !== $some * $this->length) {
                throw RefusedCloud::because('it is cut off: it says it has '.number_format($count).' points, and ends after '.number_format($read + intdiv(strlen($bytes), max(1, $this->length))));
            }
            $records = str_split($bytes, max(1, $this->length));
            $columns = [];
            foreach ($this->fields as $name => [$at, $number]) {
                $size = $number->bytes();
                $columns[$name] = $number->read(implode('', array_map(static fn (string $record): string => substr($record, $at, $size), $records)), $this->isLittle);
            }
            yield $columns;
        }
    }
}
