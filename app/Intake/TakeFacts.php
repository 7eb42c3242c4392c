<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Project;
use Closure;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\FactsTable;

/** Facts about pictures from a table; what is known already stays unless the table says otherwise. A table that is none changes nothing. */
final class TakeFacts
{
    private const LISTED = 200;

    /** Pictures written in one transaction. */
    private const CHUNK = 1000;

    /**
     * @param  ?Closure(int): void  $progress  told how many pictures are written next, in their transaction; may throw to stop
     * @return array{taken: int, facts: list<string>, skipped_count: int, skipped: list<array{line: int, reason: string}>}
     *
     * @throws InvalidValue when it is no table of facts
     */
    public function __invoke(Project $project, string $file, ?Closure $progress = null): array
    {
        // all of the table is read, and every picture found, before anything is written
        [$found, $report] = $this->read($project, $file);
        foreach (array_chunk($found, self::CHUNK, true) as $some) {
            DB::transaction(static function () use ($project, $some, $progress): void {
                if ($progress !== null) {
                    $progress(count($some));
                }
                $known = DB::table('items')->where('project_id', $project->id)->whereIntegerInRaw('id', array_keys($some))->pluck('facts', 'id');
                $update = DB::connection()->getPdo()->prepare('update items set facts = ?, updated_at = ? where id = ?');
                foreach ($some as $id => $facts) {
                    if ($known->has($id)) {
                        $before = json_decode((string) $known[$id], true);
                        $update->execute([json_encode((object) ($facts + (is_array($before) ? $before : []))), now()->toDateTimeString(), $id]);
                    }
                }
            });
        }

        return $report;
    }

    /** How many lines a table has, about; to tell whether somebody can wait for it. */
    public static function lines(string $csv): int
    {
        return substr_count($csv, "\n");
    }

    /** @return array{array<int, array<string, string>>, array{taken: int, facts: list<string>, skipped_count: int, skipped: list<array{line: int, reason: string}>}} facts by item, and the report */
    private function read(Project $project, string $file): array
    {
        $pictures = new KnownPictures($this->pictures($project));
        $report = ['taken' => 0, 'facts' => [], 'skipped_count' => 0, 'skipped' => []];
        $found = $names = [];
        foreach (FactsTable::read($file) as $line => [$name, $facts]) {
            $picture = $pictures->find($name);
            if (is_string($picture)) {
                $report['skipped_count']++;
                if (count($report['skipped']) < self::LISTED) {
                    $report['skipped'][] = ['line' => $line, 'reason' => $picture];
                }

                continue;
            }
            $found[$picture->id] = $facts + ($found[$picture->id] ?? []);
            $names += $facts;
            $report['taken']++;
        }
        $report['facts'] = array_map(strval(...), array_keys($names));

        return [$found, $report];
    }

    /** @return iterable<KnownPicture> */
    private function pictures(Project $project): iterable
    {
        foreach (DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->where('project_id', $project->id)->select('items.id', 'items.path', 'assets.width', 'assets.height')->cursor() as $row) {
            yield new KnownPicture((int) $row->id, (string) $row->path, (int) $row->width, (int) $row->height);
        }
    }
}
