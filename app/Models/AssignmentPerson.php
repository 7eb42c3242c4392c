<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A person's part in an assignment: labeller or reviewer.
 *
 * @property int $id
 * @property int $assignment_id
 * @property int $user_id
 * @property string $part
 * @property User $user
 */
final class AssignmentPerson extends Model
{
    protected $table = 'assignment_people';

    public $timestamps = false;

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
