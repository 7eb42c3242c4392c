<?php

declare(strict_types=1);

namespace App\Upkeep;

use App\Chores\RunChore;
use App\Documents\ReadDocument;
use App\Help\Learning;
use App\Help\LearnVersion;
use App\Help\MeasureModel;
use App\Help\ModelStage;
use App\Help\RunModel;
use App\Intake\DeriveFiles;
use App\Intake\TakeBundles;
use App\Intake\TakeLabelFile;
use App\Intake\TakeUpload;
use App\Intake\Uploads;
use App\Looks\LookAtProject;
use App\Models\Chore;
use App\Models\CodebookChange;
use App\Models\Edition;
use App\Models\Import;
use App\Models\ImportFile;
use App\Models\ModelVersion;
use App\Models\PromptTrial;
use App\Models\Reading;
use App\Models\Release;
use App\Models\Run;
use App\Models\Trial;
use App\Prompts\TryPrompt;
use App\Releases\FreezeRelease;
use App\Releases\WriteEdition;
use App\Rewording\ApplyCodebookChange;
use App\Support\Job;
use App\Work\Moves;
use Illuminate\Support\Facades\DB;

/**
 * Finds whatever waits for a job that is not there: a queue that was emptied, a worker that was killed, a database that was restored.
 * Run by the worker when it begins and every few minutes, and by command. May be run at any time, by several at once.
 */
final class Resume
{
    /** Pictures without copies asked for at a time, in lots of fifty. */
    private const COPIES = 1000;

    private const CHECKING_MINUTES = 3;

    /** @var array<string, true> subjects that have their job */
    private array $queued = [];

    public function __construct(private readonly Uploads $uploads, private readonly Learning $learning, private readonly ModelStage $stage)
    {
    }

    /**
     * @param  bool  $alone  no worker runs now: what one had in hand goes back into the queue, with the tries it has had
     * @return int jobs that go on
     */
    public function __invoke(bool $alone = false): int
    {
        $this->queued = Job::queued();
        $count = $alone ? DB::table('jobs')->whereNotNull('reserved_at')->update(['reserved_at' => null]) : 0;
        foreach (ImportFile::query()->where('state', 'received')->whereHas('import', static fn ($import) => $import->whereNotIn('state', ['cancelled']))->with('import')->get() as $file) {
            if (! $file->import->isOfLabels() && ! Uploads::waits($file)) {
                $count += $this->ask(new TakeUpload($file->id));
            }
        }
        foreach (Import::query()->where('state', 'working')->get() as $import) {
            if (! $import->isOfLabels()) {
                if ($import->wish()->bundles) {
                    $count += $this->ask(new TakeBundles($import->id));
                }
                $this->uploads->finishIfDone($import);
            } else {
                $count += $this->ask(new TakeLabelFile($import->id));
            }
        }
        $unfinished = ['waiting', 'working'];
        foreach (Release::query()->whereIn('state', $unfinished)->pluck('id') as $release) {
            $count += $this->ask(new FreezeRelease((int) $release));
        }
        foreach (Edition::query()->whereIn('state', $unfinished)->pluck('id') as $edition) {
            $count += $this->ask(new WriteEdition((int) $edition));
        }
        // whoever was saving it is gone
        CodebookChange::query()->where('state', CodebookChange::CHECKING)->where('created_at', '<', now()->subMinutes(self::CHECKING_MINUTES))->delete();
        foreach (CodebookChange::query()->where('state', 'working')->pluck('id') as $change) {
            $count += $this->ask(new ApplyCodebookChange((int) $change));
        }
        foreach (Chore::query()->whereIn('state', $unfinished)->pluck('id') as $chore) {
            $count += $this->ask(new RunChore((int) $chore));
        }
        foreach (Run::query()->whereIn('state', $unfinished)->pluck('id') as $run) {
            $count += $this->ask(new RunModel((int) $run));
        }
        foreach (ModelVersion::query()->whereIn('state', $unfinished)->pluck('id') as $version) {
            $count += $this->ask(new LearnVersion((int) $version));
        }
        foreach (Reading::query()->whereIn('state', $unfinished)->pluck('id') as $reading) {
            $count += $this->ask((new ReadDocument((int) $reading))->onQueue(Job::BEHIND));
        }
        foreach (Trial::query()->whereIn('state', $unfinished)->pluck('id') as $trial) {
            $count += $this->ask(new MeasureModel((int) $trial));
        }
        foreach (PromptTrial::query()->whereIn('state', $unfinished)->pluck('id') as $trial) {
            $count += $this->ask(new TryPrompt((int) $trial));
        }
        $count += $this->learning->again() + $this->stage->beginAll();
        foreach (DB::table('projects')->whereNotNull('looks_asked_at')->pluck('id') as $project) {
            $count += $this->ask(new LookAtProject((int) $project));
        }
        if (array_filter(array_keys($this->queued), static fn (string $subject): bool => str_starts_with($subject, 'copies:')) === []) {
            $bare = DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->whereNull('assets.derived_at')->limit(self::COPIES)->pluck('items.id')->map(static fn (mixed $id): int => (int) $id);
            foreach ($bare->chunk(50) as $some) {
                $count += $this->ask(new DeriveFiles(array_values($some->all())));
            }
        }
        Moves::giveBackExpired();

        return $count;
    }

    private function ask(Job $job): int
    {
        if (isset($this->queued[$job->subject()])) {
            return 0;
        }
        $this->queued[$job->subject()] = true;
        dispatch($job);

        return 1;
    }
}
