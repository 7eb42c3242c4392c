<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Help\Endpoints;
use App\Models\Item;
use App\Models\Layer;
use App\Models\Project;
use Illuminate\Support\Facades\Artisan;
use Skeno\Demo\Chance;
use Skeno\Demo\ScoutNotes;
use Tests\TestCase;

/**
 * Notes of which the truth is known, and prompts for them.
 *
 * @phpstan-require-extends TestCase
 */
trait AcceptedNotes
{
    private const PLAIN = "Mark in the note:\npest: x\ncount: x\nvariety: x\nblock: x\ndate: x\ntreatment: x\nand say the\nurgency: how soon somebody has to go\n{form}";

    private const CAREFUL = "Mark in the note, word for word:\n{classes}\nThe number of a row is no count.\nAnswer:\n{questions}\nIt is routine unless something gets worse.\n{form}";

    private Project $project;

    private function chat(): string
    {
        $address = $this->serve('stand-ins/serve.php');
        app(Endpoints::class)->allow($address, true);

        return $address;
    }

    private function file(string $name, string $words): string
    {
        file_put_contents($file = $this->temporary()."/{$name}", $words);

        return $file;
    }

    /** Notes with their truth, accepted. */
    private function notes(int $many): void
    {
        $lines = $urgency = [];
        foreach (ScoutNotes::plan($many) as $note) {
            $truth = ScoutNotes::note(new Chance($note['seed']));
            $urgency[basename($note['path'], '.txt')] = $truth['urgency'];
            $lines[] = json_encode(['id' => basename($note['path'], '.txt'), 'text' => $truth['text'], 'labelled' => 'objects', 'annotations' => array_map(static fn (array $span, int $i): array => ['id' => "a{$i}", 'type' => 'Annotation', 'body' => ['type' => 'TextualBody', 'value' => $span['class']], 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => $span['start'], 'end' => $span['end']]]], $truth['spans'], array_keys($truth['spans']))], JSON_UNESCAPED_UNICODE);
        }
        self::assertSame(0, Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $this->file('notes.jsonl', implode("\n", $lines)), '--format' => 'jsonl', '--json' => true]), Artisan::output());
        Item::query()->where('project_id', $this->project->id)->get()->each(static function (Item $item) use ($urgency): void {
            Layer::query()->where('item_id', $item->id)->where('name', 'agreed')->firstOrFail()->forceFill(['answers' => ['urgency' => ['value' => $urgency[basename($item->path)]]], 'revision' => 1])->save();
            $item->forceFill(['state' => 'accepted'])->save();
        });
    }
}
