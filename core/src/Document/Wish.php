<?php

declare(strict_types=1);

namespace Skeno\Core\Document;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** How whoever brings files in wants documents to be taken. */
final readonly class Wish
{
    /**
     * @param  ?int  $resolution  px an inch pages of documents are drawn at; null: as the installation says
     * @param  bool  $bundles  the pictures of a folder are the pages of one document
     */
    public function __construct(public ?int $resolution = null, public bool $bundles = false)
    {
    }

    /**
     * Reads `{resolution?, bundles?}`.
     *
     * @throws InvalidValue
     */
    public static function fromFields(Fields $in): self
    {
        return new self($in->optionalInt('resolution', DocumentLimits::LEAST_RESOLUTION, DocumentLimits::MOST_RESOLUTION), $in->bool('bundles'));
    }

    /** @return array{resolution?: int, bundles?: true} */
    public function toArray(): array
    {
        return ($this->resolution === null ? [] : ['resolution' => $this->resolution]) + ($this->bundles ? ['bundles' => true] : []);
    }
}
