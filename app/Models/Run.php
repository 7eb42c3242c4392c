<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * Where suggestions came from at one time: a model, or label files that were brought in as suggestions.
 *
 * @property int $id
 * @property int $project_id
 * @property ?int $created_by
 * @property ?int $import_id
 * @property string $model its name
 */
final class Run extends Model
{
}
