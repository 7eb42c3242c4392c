<?php

declare(strict_types=1);

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * An address of models the owner of the installation has allowed.
 *
 * @property int $id
 * @property string $address scheme, host and port
 * @property bool $private it may lead to a private network or this machine
 */
final class Endpoint extends Model
{
    /** @return array<string, string> */
    protected function casts(): array
    {
        return ['private' => 'bool'];
    }
}
