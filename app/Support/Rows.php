<?php

declare(strict_types=1);

namespace App\Support;

use Illuminate\Contracts\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use PDOStatement;

/** The rows of a query without an object for each, where there may be a hundred thousand. */
final class Rows
{
    public static function of(Builder $query): PDOStatement
    {
        $statement = DB::connection()->getPdo()->prepare($query->toSql());
        $statement->execute(array_map(static fn (mixed $value): mixed => is_bool($value) ? (int) $value : $value, $query->getBindings()));

        return $statement;
    }
}
