<?php

declare(strict_types=1);

namespace Skeno\Core\Volume;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** What a label map needs to know of the scan it is drawn on: where its voxels are, and the header it came with, where that was NIfTI. */
final readonly class Scan
{
    /** @param  string  $header  bytes of a NIfTI header; empty: it was none */
    private function __construct(public Grid $grid, public Laid $laid, public string $header)
    {
    }

    public static function of(Grid $grid, string $header = ''): self
    {
        return new self($grid, Laid::of($grid), $header);
    }

    /** How many slices it has. */
    public function places(): int
    {
        return $this->laid->sizes[2];
    }

    /** @return array<string, mixed> `{grid, header?}`, the header in base 64 */
    public function toArray(): array
    {
        return ['grid' => $this->grid->toArray()] + ($this->header === '' ? [] : ['header' => base64_encode($this->header)]);
    }

    /** @throws InvalidValue */
    public static function fromArray(mixed $data, string $path = 'scan'): self
    {
        $fields = Fields::of($data, $path);
        $header = $fields->has('header') ? base64_decode($fields->string('header', 1000), true) : '';
        if ($header === false || ($header !== '' && Nifti::version($header) === null)) {
            throw InvalidValue::at($fields->path('header'), $fields->raw('header'), 'a NIfTI header in base 64');
        }

        return self::of(Grid::fromArray($fields->raw('grid'), $fields->path('grid')), $header);
    }
}
