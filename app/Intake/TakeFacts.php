<?php

declare(strict_types=1);

namespace App\Intake;

use App\Models\Item;
use App\Models\Project;
use Illuminate\Support\Facades\DB;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\FactsTable;

/** Facts about pictures from a table; what is known already stays unless the table says otherwise. All of a table comes in, or nothing. */
final class TakeFacts
{
    private const LISTED = 200;

    /**
     * @return array{taken: int, facts: list<string>, skipped_count: int, skipped: list<array{line: int, reason: string}>}
     *
     * @throws InvalidValue when it is no table of facts
     */
    public function __invoke(Project $project, string $file): array
    {
        return DB::transaction(function () use ($project, $file): array {
            $pictures = new KnownPictures($this->pictures($project));
            $report = ['taken' => 0, 'facts' => [], 'skipped_count' => 0, 'skipped' => []];
            foreach (FactsTable::read($file) as $line => [$name, $facts]) {
                $picture = $pictures->find($name);
                if (is_string($picture)) {
                    $report['skipped_count']++;
                    if (count($report['skipped']) < self::LISTED) {
                        $report['skipped'][] = ['line' => $line, 'reason' => $picture];
                    }

                    continue;
                }
                $item = Item::query()->findOrFail($picture->id);
                $item->facts = $facts + $item->facts;
                $item->save();
                $report['taken']++;
                $report['facts'] = array_values(array_unique([...$report['facts'], ...array_map(strval(...), array_keys($facts))]));
            }

            return $report;
        });
    }

    /** @return iterable<KnownPicture> */
    private function pictures(Project $project): iterable
    {
        foreach (DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->where('project_id', $project->id)->select('items.id', 'items.path', 'assets.width', 'assets.height')->cursor() as $row) {
            yield new KnownPicture((int) $row->id, (string) $row->path, (int) $row->width, (int) $row->height);
        }
    }
}
