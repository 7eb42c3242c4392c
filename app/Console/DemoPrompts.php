<?php

declare(strict_types=1);

namespace App\Console;

use App\Help\Endpoints;
use App\Help\Runs;
use App\Items\FindItems;
use App\Models\Item;
use App\Models\Project;
use App\Prompts\ChatModels;
use App\Prompts\PromptRuns;
use App\Prompts\Prompts;
use App\Prompts\PromptTrials;
use RuntimeException;
use Skeno\Core\Fields;
use Skeno\Core\Prompt\Price;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;
use Skeno\StandIns\ChatServer;
use Symfony\Component\Process\Process;

/** What the demo shows of prompts: the stand-in chat model connected, two versions tried on the same notes, the better one run over some that wait. */
final readonly class DemoPrompts
{
    private const NAME = 'Find all';

    private const TRIED = 50;

    private const RUN_OVER = 12;

    public function __construct(private Endpoints $endpoints, private ChatModels $models, private Prompts $prompts, private PromptTrials $trials, private PromptRuns $promptRuns, private Runs $runs, private FindItems $find)
    {
    }

    /** @param  string  $address  where the stand-ins will answer when the demo is served */
    public function seed(Project $notes, string $address): void
    {
        $this->endpoints->allow($address, true);
        $model = $this->models->connect($notes, 'note-reader', $address, 'note-reader', ChatServer::KEY, Price::of(0.5, 2));
        $codebook = $notes->codebookVersion()->codebook();
        $task = Task::fromFields(Fields::of(['questions' => ['urgency']] + Task::all($codebook)->toArray()), $codebook);
        [$first, $second] = array_map(fn (int $number) => $this->prompts->save($notes, self::NAME, $model, $task, Template::of((string) file_get_contents(base_path("demo/resources/prompts/find-all-{$number}.txt"))), null)->load(['prompt', 'asked.endpoint']), [1, 2]);
        $standIn = $this->standIn($address);
        try {
            $before = $this->trials->begin($notes, $first, null, ($this->find)($notes, [])->ids(), self::TRIED, 1, queued: false);
            $this->trials->work($before->load(['project', 'version.asked.endpoint']));
            $this->trials->work($this->trials->beginAs($before, $second, null, queued: false)->load(['project', 'version.asked.endpoint']));
            $waiting = array_values(array_map(intval(...), Item::query()->where('project_id', $notes->id)->where('state', 'waiting')->orderByDesc('path')->limit(self::RUN_OVER)->pluck('id')->all()));
            $this->runs->work($this->promptRuns->begin($notes, $second, null, 'without', $waiting, queued: false)->load('project'));
        } finally {
            $standIn->stop();
        }
    }

    /** The stand-ins for as long as they are asked here: the demo is not served yet. */
    private function standIn(string $address): Process
    {
        $at = (string) parse_url($address, PHP_URL_HOST).':'.(int) parse_url($address, PHP_URL_PORT);
        $process = new Process([PHP_BINARY, '-S', $at, base_path('stand-ins/serve.php')], timeout: null);
        $process->disableOutput();
        $process->start();
        for ($wait = 0; $wait < 100; $wait++) {
            $socket = @stream_socket_client("tcp://{$at}", timeout: 1.0);
            if ($socket !== false) {
                fclose($socket);

                return $process;
            }
            usleep(50_000);
        }
        $process->stop();
        throw new RuntimeException("the stand-in models do not answer at {$address}");
    }
}
