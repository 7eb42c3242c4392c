<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Inference\Card;

/**
 * A model a project may ask for suggestions.
 *
 * @property int $id
 * @property int $project_id
 * @property string $name its own within the project
 * @property ?int $endpoint_id
 * @property string $remote what it is called where it lives
 * @property array<string, mixed> $card
 * @property ?Endpoint $endpoint
 */
final class ModelRow extends Model
{
    protected $table = 'models';

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

    public function card(): Card
    {
        return Card::fromArray($this->card);
    }
}
