<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * A picture in a handbook, or the handbook itself as a PDF.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $created_by
 * @property string $name
 * @property string $type
 * @property string $sha256
 * @property int $bytes
 */
final class HandbookFile extends Model
{
    /** @return array{id: int, name: string, type: string, bytes: int, url: string} */
    public function shape(): array
    {
        return ['id' => $this->id, 'name' => $this->name, 'type' => $this->type, 'bytes' => $this->bytes, 'url' => "/api/v1/projects/{$this->project_id}/handbook/files/{$this->id}"];
    }
}
