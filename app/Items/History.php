<?php

declare(strict_types=1);

namespace App\Items;

use Illuminate\Support\Facades\DB;

/** What became of marks and of what is said of items. Written in the transaction that changed them. */
final class History
{
    /** Entries a statement may hold. */
    private const CHUNK = 200;

    /**
     * @param  ?string  $mark  null: what is said of the item
     * @param  int  $revision  of it after the change
     * @param  array<string, mixed>|null  $before  null: there was nothing
     * @param  array<string, mixed>|null  $after  null: there is nothing any more
     * @param  ?int  $by  a person; null: a file, or nobody in particular
     * @return array<string, mixed> an entry for `write`
     */
    public static function entry(int $item, int $layer, ?string $mark, int $revision, string $action, ?array $before, ?array $after, ?int $by): array
    {
        $json = static fn (?array $said): ?string => $said === null ? null : json_encode($said, JSON_PRESERVE_ZERO_FRACTION | JSON_THROW_ON_ERROR);

        return ['item_id' => $item, 'layer_id' => $layer, 'mark_id' => $mark, 'revision' => $revision, 'action' => $action, 'before' => $json($before), 'after' => $json($after), 'user_id' => $by, 'created_at' => now()];
    }

    /** @param  list<array<string, mixed>>  $entries */
    public static function write(array $entries): void
    {
        foreach (array_chunk($entries, self::CHUNK) as $some) {
            DB::table('mark_history')->insert($some);
        }
    }
}
