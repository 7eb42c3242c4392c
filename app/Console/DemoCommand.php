<?php

declare(strict_types=1);

namespace App\Console;

use App\Access\Actor;
use App\Files\Views;
use App\Intake\TakeFiles;
use App\Models\CodebookVersion;
use App\Models\Item;
use App\Models\Membership;
use App\Models\Pin;
use App\Models\Project;
use App\Models\Proposal;
use App\Models\Turn;
use App\Models\User;
use App\Projects\Handbooks;
use App\Projects\Projects;
use App\Releases\Snapshots;
use App\Work\ApplyEdits;
use App\Work\Decisions;
use App\Work\HandOut;
use App\Work\Stations;
use App\Work\SubmitTurn;
use App\Work\TakeTurn;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\Date;
use Illuminate\Support\Str;
use RuntimeException;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\Items\Wish;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\People\Role;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Workflow\Decision;
use Skeno\Core\Workflow\Stage;
use Symfony\Component\Process\Process;

/**
 * Makes the demo: pictures and truth by demo/make (in two processes; what is there is kept), then people, project and work played
 * in through the same code the API uses, on the days on which it is said to have happened.
 */
final class DemoCommand extends SkenoCommand
{
    private const PASSWORD = 'orchard-demo';

    private const CARDS = 'Trap cards';

    private const ROWS = 'Row pass';

    private const NOTES = 'Scout notes';

    private const TICKETS = 'Bin tickets';

    private const SCANS = 'Fruit CT';

    private const CLOUDS = 'Row scan';

    protected $signature = 'skeno:demo {--fresh : make the project anew if it is there} {--per-block=15 : pictures of each of the four blocks} {--stand-ins= : address of the stand-in models; connects them, and learns some} {--json}';

    protected $description = 'Seed the demo: "Canopy walk", "Trap cards", "Row pass", "Scout notes", "Bin tickets", "Fruit CT" and "Row scan" with people and work in progress';

    protected function work(): int
    {
        Artisan::call('migrate', ['--force' => true]);
        $name = 'Canopy walk';
        $there = Project::query()->where('name', $name)->first();
        if ($there !== null && $this->option('fresh') !== true) {
            return $this->done($there, 'is there already; --fresh makes it anew');
        }
        if (User::query()->where('is_demo', false)->exists()) {
            throw new RuntimeException('this installation has real people; the demo goes into an empty one');
        }
        $folder = storage_path('demo');
        $this->make($folder);
        $there?->delete();
        $people = $this->people($this->read("{$folder}/people.json"));
        $project = $this->fill($name, 'What the scouting cart sees between the rows: apples, leaf scab, branches, ripeness and damage, for the picking arm and the scouts.', $folder, $people, ['north terrace', 'old wall', 'slope'], 'Apples first; scab and branches where you see them. See the handbook on hidden fruit.');
        $snapshots = app(Snapshots::class);
        $release = $snapshots->begin($project, $people['Ines Okafor'], Recipe::fromArray(['split' => ['train' => 70, 'val' => 15, 'test' => 15, 'seed' => 1]], $project->codebookVersion()->codebook()), 'what was accepted in the first week');
        $snapshots->freeze($release);
        $this->propose($project, $people);
        Project::query()->where('name', self::CARDS)->first()?->delete();
        $models = app(DemoModels::class);
        $standIns = $this->word('stand-ins');
        $cards = $this->fill(self::CARDS, 'Sticky cards from the pheromone traps, a week each: every moth with its six nodes.', "{$folder}/traps", $people, [], 'Head to tail first, then the wings.', $standIns === null ? null : $models->meanwhile(...));
        Project::query()->where('name', self::ROWS)->first()?->delete();
        $this->fill(self::ROWS, 'What the picking cart sees on its way down a row, ten seconds each: bins, trunks, and a net that came loose.', "{$folder}/rows", $people, [], 'Bins from the first frame you can tell them. The net by its outline.');
        Project::query()->where('name', self::NOTES)->first()?->delete();
        $notes = $this->fill(self::NOTES, 'What scouts wrote on their rounds: pests, where, when and how many.', "{$folder}/notes", $people, [], 'Every pest with its number. See the handbook on blocks within blocks.');

        Project::query()->where('name', self::TICKETS)->first()?->delete();
        $this->fill(self::TICKETS, 'Delivery sheets of the picking cart: what was weighed, corrected and signed.', "{$folder}/tickets", $people, [], 'Every line with its figures. See the handbook on corrections.');
        Project::query()->where('name', self::SCANS)->first()?->delete();
        $this->fill(self::SCANS, 'Apples from the cold store in a scanner: core, bruises, tunnels.', "{$folder}/scans", $people, [], 'Every fourth slice, then look between. See the handbook on growing.');
        Project::query()->where('name', self::CLOUDS)->first()?->delete();
        $this->fill(self::CLOUDS, 'What a scanner on the picking cart sees between two rows: bins, another cart, posts, trunks.', "{$folder}/clouds", $people, [], 'Bins and the cart first, over all six frames. See the handbook on sides nobody sees.');
        if ($standIns !== null) {
            $models->seed($project, $cards, $standIns);
            app(DemoPrompts::class)->seed($notes, $standIns);
        }

        return $this->done($project, 'is made');
    }

    /**
     * A project with its pictures, and the work done on it so far.
     *
     * @param  array<string, User>  $people
     * @param  list<string>  $sets  handed out; none: all
     * @param  null|callable(Project): void  $meanwhile  called after each piece of work
     */
    private function fill(string $name, string $about, string $folder, array $people, array $sets, string $note, ?callable $meanwhile = null): Project
    {
        $project = app(Projects::class)->create($name, $about, 'Larkmoor Orchard Trials', Codebook::fromJson((string) file_get_contents("{$folder}/codebook.json")), $people['Ines Okafor']);
        $this->join($project, $people);
        $items = [];
        foreach (app(TakeFiles::class)->all($project, "{$folder}/pictures", false, wish: new Wish(bundles: $name === self::TICKETS, frames: $name === self::CLOUDS)) as $outcome) {
            if ($outcome->item !== null) {
                $items[] = $outcome->item;
            }
        }
        app(TakeFiles::class)->derive($items, true);
        $this->write($project, "{$folder}/handbook.md", $items[0], $people['Ines Okafor']);
        try {
            $this->play($project, $people, $this->read("{$folder}/work.json"), $sets, $note, $meanwhile ?? static function (Project $project): void {
            });
        } finally {
            Date::setTestNow();
        }

        return $project;
    }

    /** The handbook, with a picture of the project in it. */
    private function write(Project $project, string $file, int $item, User $author): void
    {
        $handbooks = app(Handbooks::class);
        $words = (string) file_get_contents($file);
        if (str_contains($words, '{picture}')) {
            $asset = Item::query()->with('asset')->findOrFail($item)->asset;
            $picture = $handbooks->keep($project, app(Views::class)->file($asset, 'thumb'), 'from the row.jpg', $author)->shape();
            $words = str_replace('{picture}', $picture['url'], $words);
        }
        $handbooks->change($project, $words, null, 0, $author);
    }

    /**
     * What a labeller has proposed: one answered, one waiting.
     *
     * @param  array<string, User>  $people
     */
    private function propose(Project $project, array $people): void
    {
        $turn = Turn::query()->where('project_id', $project->id)->where('user_id', $people['Mei Castellan']->id)->orderByDesc('id')->first();
        $from = ['project_id' => $project->id, 'author_id' => $people['Mei Castellan']->id, 'turn_id' => $turn?->id, 'item_id' => $turn?->item_id];
        Proposal::query()->create($from + ['kind' => 'rule', 'text' => 'Apples on the ground: box them, or leave them out?', 'state' => 'taken', 'answer' => 'Leave them out; the arm does not pick them up. It will be in the handbook.', 'answered_by' => $people['Ines Okafor']->id, 'answered_at' => now()]);
        Proposal::query()->create($from + ['kind' => 'class', 'name' => 'Mildew', 'text' => 'A white film on young leaves. I outline it as scab now, but it is something else.']);
    }

    private function done(Project $project, string $what): int
    {
        $this->line($this->option('json') === true
            ? $this->json(['project' => $project->id, 'name' => $project->name, 'items' => $project->items()->count()])
            : "\"{$project->name}\" {$what}: {$project->items()->count()} pictures. Sign in by one click, or as ines@larkmoor.example with the password ".self::PASSWORD.'.');

        return self::DONE;
    }

    private function make(string $folder): void
    {
        if (is_file("{$folder}/clouds/work.json") && is_file("{$folder}/scans/work.json") && is_file("{$folder}/notes/work.json")) {
            return;
        }
        $php = [PHP_BINARY, '-d', 'opcache.enable_cli=1', '-d', 'opcache.jit=tracing', '-d', 'opcache.jit_buffer_size=64M', '-d', 'memory_limit=1G', base_path('demo/make'), $folder, $this->word('per-block', '15') ?? '15'];
        // two processes on two cores: each drawing library stays on one thread
        $processes = array_map(static fn (int $part): Process => new Process([...$php, (string) $part, '2'], null, ['MAGICK_THREAD_LIMIT' => '1', 'OMP_NUM_THREADS' => '1'], null, 900), [0, 1]);
        array_map(static fn (Process $process) => $process->start(), $processes);
        foreach ($processes as $process) {
            if ($process->wait() !== 0) {
                throw new RuntimeException('the demo pictures could not be made: '.Str::limit($process->getErrorOutput(), 400));
            }
        }
        (new Process([...$php, 'season'], null, null, null, 120))->mustRun();
    }

    /** @return list<Fields> */
    private function read(string $file): array
    {
        return Fields::of(['rows' => json_decode((string) file_get_contents($file), true)])->objects('rows');
    }

    /**
     * @param  list<Fields>  $rows
     * @return array<string, User> by name
     */
    private function people(array $rows): array
    {
        $people = [];
        foreach ($rows as $i => $row) {
            $people[$row->string('name')] = User::query()->updateOrCreate(['email' => $row->string('email')], [
                'name' => $row->string('name'), 'password' => self::PASSWORD, 'is_demo' => true, 'is_owner' => $i === 0, 'can_create' => $i === 0, 'settings' => ['what' => $row->string('what'), 'role' => $row->string('role')],
            ])->refresh();
        }

        return $people;
    }

    /** @param  array<string, User>  $people */
    private function join(Project $project, array $people): void
    {
        foreach ($people as $user) {
            Membership::query()->updateOrCreate(['project_id' => $project->id, 'user_id' => $user->id], ['role' => Role::from(is_string($user->settings['role'] ?? null) ? $user->settings['role'] : 'guest')]);
        }
    }

    /**
     * @param  array<string, User>  $people
     * @param  list<Fields>  $work
     * @param  list<string>  $sets
     */
    private function play(Project $project, array $people, array $work, array $sets, string $note, callable $meanwhile): void
    {
        $today = CarbonImmutable::now()->startOfDay();
        Date::setTestNow($today->subDays(7)->setTime(8, 0));
        $labellers = array_values(array_map(static fn (string $name): int => $people[$name]->id, ['Mei Castellan', 'Ravi Sørby', 'Aoife Duarte']));
        app(HandOut::class)->make($project, $people['Ines Okafor'], Fields::of([
            'sets' => $sets, 'labellers' => $labellers, 'reviewers' => [$people['Tobias Lindqvist']->id], 'note' => $note,
        ]));
        CodebookVersion::query()->where('project_id', $project->id)->update(['created_at' => Date::now()]);
        $reviewer = new Actor($people['Tobias Lindqvist']);
        $clock = [];
        foreach ($work as $entry) {
            $days = $entry->int('days_ago', 0, 30);
            $clock[$days] = ($clock[$days] ?? $today->subDays($days)->setTime(8, 40))->addSeconds($entry->int('seconds') + 20);
            Date::setTestNow($clock[$days]);
            $this->label($project, $people[$entry->string('labeller')], $entry);
            if ($entry->has('decision')) {
                Date::setTestNow($clock[$days]->addHours(4));
                $this->review($project, $reviewer, $entry);
            }
            $meanwhile($project);
        }
    }

    private function label(Project $project, User $user, Fields $entry): void
    {
        $actor = new Actor($user);
        $turn = $this->turn($project, $entry);
        $turn = app(TakeTurn::class)->take($actor, $turn);
        $marks = $entry->objects('marks');
        $edits = $ids = [];
        foreach ($marks as $mark) {
            $ids[] = $id = strtoupper((string) Str::ulid());
            $between = $mark->list('between');
            $joins = $between === [] ? [] : ['from' => $ids[is_int($between[0]) ? $between[0] : 0], 'to' => $ids[is_int($between[1]) ? $between[1] : 0]];
            $edits[] = ['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => $id, 'base' => 0, 'seconds' => intdiv($entry->int('seconds'), max(1, count($marks))), 'data' => ['class' => $mark->string('class'), 'kind' => $mark->string('kind'), 'geometry' => $joins + $mark->map('geometry'), 'answers' => $mark->map('answers')] + array_intersect_key($mark->all(), ['place' => 0, 'stretches' => 0])];
            foreach ($mark->has('keys') ? $mark->objects('keys') : [] as $key) {
                $edits[] = ['id' => strtoupper((string) Str::ulid()), 'action' => 'key', 'mark' => $id, 'base' => 0, 'data' => ['place' => $key->int('place'), 'key' => ['geometry' => $key->map('geometry')]]];
            }
        }
        $edits[] = ['id' => strtoupper((string) Str::ulid()), 'action' => 'create', 'mark' => null, 'base' => 0, 'data' => ['kind' => ItemAnswers::KIND] + $entry->map('said')];
        foreach (app(ApplyEdits::class)($actor, $turn, $edits) as $result) {
            if ($result['outcome'] !== 'applied') {
                throw new RuntimeException("{$entry->string('path')}: ".(is_string($result['reason'] ?? null) ? $result['reason'] : 'an edit was not taken'));
            }
        }
        app(SubmitTurn::class)->submit($actor, $turn->refresh(), $marks === [], true);
    }

    private function review(Project $project, Actor $reviewer, Fields $entry): void
    {
        $turn = app(TakeTurn::class)->take($reviewer, Stations::decision($this->turn($project, $entry)) ?? throw new RuntimeException("{$entry->string('path')} has not been submitted"));
        foreach ($entry->objects('pins') as $pin) {
            Pin::query()->create(['item_id' => $turn->item_id, 'turn_id' => $turn->id, 'author_id' => $reviewer->user->id, 'x' => $pin->optionalNumber('x'), 'y' => $pin->optionalNumber('y'), 'offset' => $pin->optionalInt('offset'), 'place' => $pin->optionalInt('place'), 'text' => $pin->string('text')]);
        }
        app(Decisions::class)->decide($reviewer, $turn, Decision::from($entry->string('decision')), $entry->optionalString('reason') ?? '');
    }

    private function turn(Project $project, Fields $entry): Turn
    {
        return Turn::query()->where('project_id', $project->id)->where('item_id', Item::query()->where('project_id', $project->id)->where('path', $entry->string('path'))->firstOrFail()->id)->where('stage', Stage::Label)->where('followed', false)->with(['item.asset', 'project', 'assignment.stations', 'layer'])->firstOrFail();
    }
}
