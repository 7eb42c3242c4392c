<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Fields;
use Skeno\Core\Inference\Card;
use Skeno\Core\Inference\Knows;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Learn\Then;

/**
 * A model a project may ask for suggestions.
 *
 * @property int $id
 * @property int $project_id
 * @property string $name its own within the project
 * @property ?int $endpoint_id
 * @property string $remote what it is called where it lives
 * @property array<string, mixed> $card of a connected one
 * @property string $kind connected, or what it learns: looks, regions, skeletons
 * @property ?int $version_id of a learned one: the version in use
 * @property ?Endpoint $endpoint
 */
final class ModelRow extends Model
{
    protected $table = 'models';

    /** @var array<string, mixed> */
    protected $attributes = ['kind' => 'connected'];

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['card' => 'array'];
    }

    /** @return BelongsTo<Endpoint, $this> */
    public function endpoint(): BelongsTo
    {
        return $this->belongsTo(Endpoint::class);
    }

    /** @throws InvalidValue when it is a learned one, which has none */
    public function card(): Card
    {
        return Card::fromArray($this->card);
    }

    public function learns(): ?LearnedKind
    {
        return LearnedKind::tryFrom($this->kind);
    }

    /** The classes and nodes it knows by name; of a learned one those of the version in use. */
    public function knows(): Knows
    {
        if ($this->learns() === null) {
            return $this->card()->knows();
        }
        $learned = Fields::of(ModelVersion::query()->select(['id', 'learned'])->find($this->version_id)->learned ?? []);
        $nodes = [];
        foreach ($learned->has('nodes') ? $learned->map('nodes') : [] as $of) {
            array_push($nodes, ...(is_array($of) ? array_filter($of, is_string(...)) : []));
        }

        $classes = $learned->has('classes') ? array_values($learned->strings('classes')) : [];
        if ($this->learns() === LearnedKind::Looks) {
            return new Knows([], [], $learned->has('tags') ? array_values($learned->strings('tags')) : [], Then::aboutPictures($classes));
        }

        return new Knows($classes, array_values(array_unique($nodes)));
    }
}
