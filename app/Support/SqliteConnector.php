<?php

declare(strict_types=1);

namespace App\Support;

use Illuminate\Database\Connectors\SQLiteConnector as Base;
use PDO;

final class SqliteConnector extends Base
{
    /**
     * @param  string  $dsn
     * @param  string|null  $username
     * @param  string|null  $password
     * @param  array<int, mixed>  $options
     */
    protected function createPdoConnection($dsn, $username, #[\SensitiveParameter] $password, $options): PDO
    {
        return new ImmediatePdo($dsn, $username, $password, $options);
    }
}
