<?php

declare(strict_types=1);

namespace App\Console;

use App\Models\Project;
use App\Support\Refusal;
use Illuminate\Console\Command;
use Illuminate\Database\QueryException;
use Skeno\Core\Codebook\InvalidCodebook;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;
use Throwable;

/** What all skeno:… commands keep: exit codes 0 done, 1 some refused, 2 failed; --json; a sentence, never a stack trace. */
abstract class SkenoCommand extends Command
{
    protected const DONE = 0;

    protected const SOME_REFUSED = 1;

    protected const FAILED = 2;

    abstract protected function work(): int;

    public function run(InputInterface $input, OutputInterface $output): int
    {
        try {
            return parent::run($input, $output);
        } catch (\Symfony\Component\Console\Exception\ExceptionInterface $e) {
            // wrong words on the command line
            $output->writeln('<error>'.$e->getMessage().'</error>');

            return self::FAILED;
        }
    }

    final public function handle(): int
    {
        try {
            return $this->work();
        } catch (InvalidValue|InvalidCodebook|UnreadableLabels|Refusal|\RuntimeException $e) {
            $expected = ! $e instanceof QueryException;
            if (! $expected) {
                report($e);
            }

            return $this->failWith($expected ? $e->getMessage() : $this->databaseTrouble($e), $e instanceof InvalidCodebook ? ['errors' => $e->errors] : []);
        } catch (Throwable $e) {
            report($e);

            return $this->failWith('something went wrong; it was written to '.storage_path('logs'));
        }
    }

    /** @param  array<string, mixed>  $more */
    protected function failWith(string $message, array $more = []): int
    {
        if ($this->option('json') === true) {
            $this->line($this->json(['error' => $message] + $more));
        } else {
            $this->components->error($message);
            foreach (is_array($more['errors'] ?? null) ? $more['errors'] : [] as $error) {
                $this->line(is_array($error) ? '  '.implode(': ', array_filter($error, is_string(...))) : '');
            }
        }

        return self::FAILED;
    }

    /** @param  array<string, mixed>  $data */
    protected function json(array $data): string
    {
        return json_encode($data, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE | JSON_THROW_ON_ERROR);
    }

    /** A project by id or exact name. */
    protected function project(): Project
    {
        $word = $this->text('project');
        $found = Project::query()->where('name', $word)->get();
        if ($found->isEmpty() && ctype_digit($word)) {
            $found = Project::query()->whereKey((int) $word)->get();
        }
        if ($found->count() > 1) {
            throw InvalidValue::at('PROJECT', $word, 'an id, since '.$found->count().' projects have this name: '.$found->pluck('id')->implode(', '));
        }

        return $found->first() ?? throw InvalidValue::at('PROJECT', $word, 'the id or exact name of a project');
    }

    protected function text(string $argument): string
    {
        $value = $this->argument($argument);

        return is_string($value) ? $value : '';
    }

    protected function word(string $option, ?string $default = null): ?string
    {
        $value = $this->option($option);

        return is_string($value) && $value !== '' ? $value : $default;
    }

    private function databaseTrouble(Throwable $e): string
    {
        return match (true) {
            str_contains($e->getMessage(), 'no such table') => 'the database is not set up: run "php artisan migrate --force" first',
            str_contains($e->getMessage(), 'disk is full') => 'the disk is full; nothing was changed',
            str_contains($e->getMessage(), 'locked') => 'the database is busy; try again',
            default => 'the database refused; see '.storage_path('logs'),
        };
    }
}
