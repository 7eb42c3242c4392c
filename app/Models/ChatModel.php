<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Skeno\Core\Fields;
use Skeno\Core\Prompt\Price;

/**
 * A chat model a project may ask.
 *
 * @property int $id
 * @property int $project_id
 * @property string $name its own within the project
 * @property int $endpoint_id
 * @property string $remote what it is called where it lives
 * @property string $path where there it is asked
 * @property ?string $secret the key, encrypted; only AskChat reads it
 * @property ?array{in: float, out: float} $price for a million tokens
 * @property int $most_tokens of a reply
 * @property Endpoint $endpoint
 */
final class ChatModel extends Model
{
    /** @var list<string> */
    protected $hidden = ['secret'];

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['price' => 'array'];
    }

    /** @return BelongsTo<Endpoint, $this> */
    public function endpoint(): BelongsTo
    {
        return $this->belongsTo(Endpoint::class);
    }

    public function price(): ?Price
    {
        return $this->price === null ? null : Price::fromFields(Fields::of($this->price));
    }
}
