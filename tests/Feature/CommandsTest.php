<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Release;
use Illuminate\Support\Facades\Artisan;
use Skeno\Core\Tests\Samples;
use Tests\TestCase;
use ZipArchive;

final class CommandsTest extends TestCase
{
    /** @return array{0: int, 1: mixed} exit code and decoded output */
    private function command(string $command, array $arguments): array
    {
        $code = Artisan::call($command, $arguments + ['--json' => true]);

        return [$code, json_decode(Artisan::output(), true)];
    }

    private function codebookFile(): string
    {
        $file = $this->temporary().'/codebook.json';
        file_put_contents($file, json_encode(Samples::document()));

        return $file;
    }

    /** A folder with two sets, a broken file and COCO labels. */
    private function folder(): string
    {
        $folder = $this->temporary();
        mkdir("{$folder}/pictures/north terrace", 0o770, true);
        mkdir("{$folder}/pictures/slope", 0o770, true);
        foreach (['north terrace/a', 'north terrace/b', 'slope/c', 'slope/d'] as $name) {
            rename($this->picture(100, 80, $name), "{$folder}/pictures/{$name}.png");
        }
        file_put_contents("{$folder}/coco.json", json_encode([
            'images' => [['id' => 1, 'file_name' => 'north terrace/a.png'], ['id' => 2, 'file_name' => 'b.png'], ['id' => 3, 'file_name' => 'c.png']],
            'categories' => [['id' => 7, 'name' => 'Leaf scab']],
            'annotations' => [
                ['id' => 11, 'image_id' => 1, 'category_id' => 7, 'bbox' => [1.5, 2.25, 30, 40]],
                ['id' => 12, 'image_id' => 1, 'category_id' => 7, 'bbox' => [50, 10, 20.125, 20]],
                ['id' => 13, 'image_id' => 2, 'category_id' => 7, 'bbox' => [90, 10, 40, 20]],
                ['id' => 14, 'image_id' => 1, 'category_id' => 8, 'bbox' => [0, 0, 5, 5]],
            ],
        ]));

        return $folder;
    }

    public function test_project_import_release(): void
    {
        [$code, $project] = $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $this->codebookFile()]);
        self::assertSame([0, 3], [$code, $project['classes']]);
        $folder = $this->folder();
        [$code, $report] = $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json"]);
        self::assertSame([1, 4, 3, 1, 1, 1], [$code, $report['taken'], $report['labels']['objects'], $report['labels']['accepted'], $report['labels']['submitted'], $report['labels']['skipped_count']]);
        self::assertSame([['file' => 'coco.json', 'place' => 'annotations[3] (id 14)', 'reason' => 'no category in the file has id 8']], $report['labels']['skipped']);
        self::assertSame(['new', 'new'], Item::query()->whereIn('path', ['slope/c.png', 'slope/d.png'])->pluck('state')->map(static fn ($state): string => $state->value)->all(), 'a picture without objects is not labelled unless said so');

        [$code, $again] = $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json"]);
        self::assertSame([1, 0, 4, 0, 3], [$code, $again['taken'], $again['known'], $again['labels']['objects'], $again['labels']['known']]);

        [$code, $released] = $this->command('skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => "{$folder}/out"]);
        self::assertSame([0, 2, []], [$code, $released['compared']['marks'], $released['compared']['differences']]);
        $coco = json_decode((string) file_get_contents("{$folder}/out/annotations/all.json"), true);
        self::assertSame(['north terrace/a.png'], array_column($coco['images'], 'file_name'));
        self::assertSame([[1.5, 2.25, 30, 40], [50, 10, 20.125, 20]], array_column($coco['annotations'], 'bbox'));
        self::assertFileExists("{$folder}/out/images/north terrace/a.png");
    }

    public function test_empty_pictures_mean_what_was_said(): void
    {
        $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $this->codebookFile()]);
        $folder = $this->folder();
        $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json", '--empty' => 'nothing']);
        self::assertSame(['slope/c.png'], Item::query()->where('nothing', true)->pluck('path')->all());
        $this->command('skeno:release', ['project' => 'Canopy', '--format' => 'yolo', '--out' => "{$folder}/out", '--states' => 'any', '--with-unlabelled' => true, '--no-pictures' => true]);
        self::assertSame('', file_get_contents("{$folder}/out/labels/all/slope/c.txt"));
        self::assertFileDoesNotExist("{$folder}/out/labels/all/slope/d.txt");
        self::assertFileExists("{$folder}/out/labels/all/north terrace/b.txt");
        self::assertDirectoryDoesNotExist("{$folder}/out/images");
        self::assertSame(['slope/d.png'], json_decode((string) file_get_contents("{$folder}/out/datasheet.json"), true)['not_labelled']);
    }

    public function test_suggestions_are_not_labels(): void
    {
        $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $this->codebookFile()]);
        $folder = $this->folder();
        $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json", '--as' => 'suggestions']);
        self::assertSame(3, MarkRow::query()->where('layer', 'suggestion')->count());
        self::assertSame([0], Item::query()->pluck('mark_count')->unique()->all());
        [, $released] = $this->command('skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => "{$folder}/out", '--states' => 'any']);
        self::assertSame(0, $released['compared']['marks']);
    }

    public function test_the_same_content_gives_the_same_bytes_and_a_split_stays(): void
    {
        $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $this->codebookFile()]);
        $folder = $this->folder();
        $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json", '--empty' => 'nothing']);
        $release = fn (string $out, array $more = []): mixed => $this->command('skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => $out, '--states' => 'any', '--split' => '50,25,25', '--seed' => '3'] + $more)[1];
        $one = $release("{$folder}/one.zip");
        $two = $release("{$folder}/two.zip", ['--number' => '1']);
        self::assertSame($one['sha256'], $two['sha256']);
        $release("{$folder}/three.zip");
        $zip = new ZipArchive;
        $zip->open("{$folder}/three.zip");
        $three = (string) $zip->getFromName('annotations/train.json');
        $zip->open("{$folder}/one.zip");
        self::assertSame((string) $zip->getFromName('annotations/train.json'), $three);
        [$first, $third] = [Release::query()->where('number', 1)->sole(), Release::query()->where('number', 2)->sole()];
        self::assertSame($first->sha256, $third->sha256, 'frozen twice, the same bytes');
        self::assertSame(['test' => 1, 'train' => 1, 'val' => 1], collect($first->census['split'])->sortKeys()->all());
    }

    public function test_classes_and_round_trip_through_every_format(): void
    {
        $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $this->codebookFile()]);
        $folder = $this->folder();
        $this->command('skeno:import', ['project' => 'Canopy', 'path' => "{$folder}/pictures", '--format' => 'coco', '--labels' => "{$folder}/coco.json"]);
        foreach (['coco', 'voc', 'yolo', 'skeno'] as $format) {
            $this->command('skeno:release', ['project' => 'Canopy', '--format' => $format, '--out' => "{$folder}/{$format}", '--classes' => 'scab']);
            $this->command('skeno:project', ['name' => "Back {$format}", '--codebook' => $this->codebookFile()]);
            $pictures = match ($format) {
                'voc' => 'JPEGImages', 'yolo' => 'images/all', default => 'images',
            };
            [$code, $report] = $this->command('skeno:import', ['project' => "Back {$format}", 'path' => "{$folder}/{$format}/{$pictures}", '--format' => $format, '--labels' => "{$folder}/{$format}"]);
            self::assertSame([0, 1, 2, 0], [$code, $report['taken'], $report['labels']['objects'], $report['labels']['skipped_count']], $format);
        }
    }

    /** From an empty folder, as an engineer would: migrate and nothing else, then back again. */
    public function test_commands_need_nothing_but_a_migration_and_none_goes_back_over_data(): void
    {
        $folder = $this->temporary().'/empty';
        $artisan = static function (string ...$arguments) use ($folder): \Symfony\Component\Process\Process {
            $process = new \Symfony\Component\Process\Process([PHP_BINARY, 'artisan', ...$arguments], base_path(), ['SKENO_DATA' => $folder, 'APP_KEY' => false, 'APP_ENV' => false]);
            $process->run();

            return $process;
        };
        self::assertSame(2, $artisan('skeno:project', 'Canopy', '--codebook='.$this->codebookFile(), '--json')->getExitCode(), 'before migrate');
        self::assertSame(0, $artisan('migrate', '--force')->getExitCode());
        self::assertSame(0, $artisan('skeno:project', 'Canopy', '--codebook='.$this->codebookFile())->getExitCode());
        self::assertSame(2, $artisan('skeno:release')->getExitCode());
        self::assertSame(2, $artisan('skeno:release', 'Canopy', '--sideways')->getExitCode());
        $back = $artisan('migrate:rollback', '--force');
        self::assertNotSame(0, $back->getExitCode());
        self::assertStringContainsString('restore a backup', preg_replace('/\s+/', ' ', $back->getOutput().$back->getErrorOutput()));
        self::assertSame(0, $artisan('migrate', '--force')->getExitCode());
        self::assertSame(0, $artisan('skeno:codebook', 'Canopy', '--export')->getExitCode());
        self::assertSame('0600', substr(sprintf('%o', fileperms("{$folder}/app.key")), -4));
    }

    public function test_wrong_words_fail_with_a_sentence(): void
    {
        $file = $this->codebookFile();
        $this->command('skeno:project', ['name' => 'Canopy', '--codebook' => $file]);
        file_put_contents("{$file}.broken", '{"skeno":"codebook/1","classes":[{"key":"A","name":"x","shapes":["box"]}]}');
        $nowhere = $this->temporary();
        foreach ([
            ['skeno:project', ['name' => 'Canopy', '--codebook' => $file], 'already a project'],
            ['skeno:project', ['name' => 'Other'], '--codebook'],
            ['skeno:project', ['name' => 'Other', '--codebook' => "{$file}.broken"], 'classes[0].key'],
            ['skeno:import', ['project' => 'Nowhere', 'path' => '/tmp'], 'PROJECT is "Nowhere"'],
            ['skeno:import', ['project' => 'Canopy', 'path' => '/no/such/place'], 'PATH'],
            ['skeno:import', ['project' => 'Canopy', 'path' => '/tmp', '--format' => 'paper'], '--format is "paper"'],
            ['skeno:import', ['project' => 'Canopy', 'path' => $this->temporary(), '--labels' => '/no/such/file', '--format' => 'coco'], '--labels'],
            ['skeno:import', ['project' => 'Canopy', 'path' => $this->temporary(), '--format' => 'coco', '--as' => 'truth'], '--as'],
            ['skeno:import', ['project' => 'Canopy', 'path' => $this->temporary(), '--format' => 'coco', '--labels' => $file], 'not a COCO file'],
            ['skeno:release', ['project' => 'Canopy', '--format' => 'coco'], '--out'],
            ['skeno:release', ['project' => 'Canopy', '--out' => "{$nowhere}/x"], '--format'],
            ['skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => dirname($file)], 'nothing is yet'],
            ['skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => "{$nowhere}/x", '--split' => '50,20'], 'split'],
            ['skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => "{$nowhere}/x", '--classes' => 'pear'], 'pear'],
            ['skeno:release', ['project' => 'Canopy', '--format' => 'coco', '--out' => "{$nowhere}/x", '--states' => 'maybe'], 'maybe'],
        ] as [$command, $arguments, $words]) {
            [$code, $out] = $this->command($command, $arguments);
            self::assertSame(2, $code, "{$command} {$words}");
            self::assertStringContainsString($words, (string) ($out['error'] ?? ''));
        }
        self::assertSame(0, Release::query()->where('state', 'done')->count());
    }
}
