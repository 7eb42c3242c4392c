<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;

/**
 * What a text says. It never changes: another text is another asset.
 *
 * @property int $asset_id
 * @property string $body
 * @property ?array<string, mixed> $tokens
 */
final class StoredText extends Model
{
    protected $table = 'texts';

    protected $primaryKey = 'asset_id';

    public $incrementing = false;

    public $timestamps = false;

    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['tokens' => 'array'];
    }

    public function text(): Text
    {
        return Text::of($this->body, $this->tokens === null ? null : Tokens::fromArray($this->tokens));
    }
}
