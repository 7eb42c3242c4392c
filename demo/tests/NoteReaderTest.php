<?php

declare(strict_types=1);

namespace Skeno\Demo\Tests;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Span;
use Skeno\Core\InvalidValue;
use Skeno\Core\Prompt\Chat;
use Skeno\Core\Prompt\Compared;
use Skeno\Core\Prompt\PromptFigures;
use Skeno\Core\Prompt\Reply;
use Skeno\Core\Prompt\ReplyReader;
use Skeno\Core\Prompt\Task;
use Skeno\Core\Prompt\Template;
use Skeno\Core\Text\Text;
use Skeno\Demo\Chance;
use Skeno\Demo\ScoutNotes;
use Skeno\StandIns\ChatServer;

/** A prompt from its words to its figures: what is asked, what the stand-in says, what of it can be used, how good it is. */
final class NoteReaderTest extends TestCase
{
    private static function codebook(): Codebook
    {
        return Codebook::fromJson((string) file_get_contents(__DIR__.'/../resources/scout-notes.json'));
    }

    /** @return array{int, string} status and body */
    private static function ask(string $model, string $system, string $text, int $most = 2000): array
    {
        [$status, $said] = (new ChatServer)->answer('Bearer '.ChatServer::KEY, Chat::request($model, $system, $text, $most));

        return [$status, is_string($said) ? $said : (string) json_encode($said)];
    }

    /**
     * Asks of a hundred notes.
     *
     * @return array{exact: float, overlapping: float, urgency: float, mended: array<string, int>, left: array<string, int>}
     */
    private static function figures(string $template): array
    {
        $codebook = self::codebook();
        $task = Task::all($codebook);
        $system = Template::of($template)->filled($codebook, $task);
        $counts = $right = [];
        $mended = $left = [];
        foreach (ScoutNotes::plan(100) as $note) {
            $truth = ScoutNotes::note(new Chance($note['seed']));
            [, $body] = self::ask('note-reader', $system, $truth['text']);
            $reply = ReplyReader::read(Chat::said($body)->words, Text::of($truth['text']), $codebook, $task);
            $known = array_map(static fn (array $span): array => ['class' => $span['class'], 'span' => Span::of($span['start'], $span['end'])], $truth['spans']);
            $counts[] = Compared::of($known, $reply->spans)->counts();
            $right[] = isset($reply->answers['urgency']) && $reply->answers['urgency']->toArray()['value'] === $truth['urgency'];
            self::tally($mended, $reply->mended, 'how');
            self::tally($left, $reply->left, 'why');
        }
        $of = PromptFigures::ofSpans($counts, null);

        return ['exact' => $of['exact']['f1']->value ?? 0.0, 'overlapping' => $of['overlapping']['f1']->value ?? 0.0, 'urgency' => PromptFigures::agreement($right)->value ?? 0.0, 'mended' => $mended, 'left' => $left];
    }

    /**
     * @param  array<string, int>  $sum
     * @param  list<array<string, string>>  $rows
     */
    private static function tally(array &$sum, array $rows, string $key): void
    {
        foreach ($rows as $row) {
            $what = (string) preg_replace('/"[^"]*"|\d+/', '…', $row[$key]);
            $sum[$what] = ($sum[$what] ?? 0) + 1;
        }
    }

    public function test_a_prompt_that_says_what_is_meant_is_measurably_better_and_neither_is_without_fault(): void
    {
        $plain = self::figures("Mark in the note:\npest: x\ncount: x\nvariety: x\nblock: x\ndate: x\ntreatment: x\nand say the\nurgency: how soon somebody has to go\n{form}");
        $careful = self::figures("Mark in the note, word for word:\n{classes}\nThe number of a row is no count.\nAnswer:\n{questions}\nIt is routine unless something gets worse.\n{form}");
        self::assertGreaterThan($plain['exact'] + 0.1, $careful['exact']);
        self::assertGreaterThan($plain['urgency'], $careful['urgency']);
        foreach ([$plain, $careful] as $figures) {
            self::assertGreaterThanOrEqual($figures['exact'], $figures['overlapping']);
            self::assertLessThan(0.98, $figures['overlapping']);
            self::assertGreaterThan(0.4, $figures['exact']);
            // each of its faults is met: mended where there is one way, else listed
            foreach (['its offsets did not fit …, which the text has once', 'words stood round its JSON', '… stands there in other letters or with other spaces'] as $how) {
                self::assertArrayHasKey($how, $figures['mended'], (string) json_encode($figures));
            }
            foreach (['no class that was asked for: …', '… is not in the text', '… is in the text … times, and its offsets fit none of them'] as $why) {
                self::assertArrayHasKey($why, $figures['left'], (string) json_encode($figures));
            }
        }
    }

    public function test_what_it_says_is_always_the_same_and_only_of_what_it_is_asked(): void
    {
        $text = 'Found 12 mites in the old wall. Needs soap spray.';
        self::assertSame(self::ask('note-reader', "pest: x\n", $text), self::ask('note-reader', "pest: x\n", $text));
        [, $body] = self::ask('note-reader', "pest: x\nno: {form}", $text);
        $reply = ReplyReader::read(Chat::said($body)->words, Text::of($text), self::codebook(), Task::all(self::codebook()));
        self::assertSame([], array_filter($reply->spans, static fn (array $one): bool => $one['class'] !== 'pest'));
        self::assertSame([], $reply->answers);
        self::assertSame('the reply was cut at its most tokens', Chat::said(self::ask('note-reader', 'pest: x', $text, 3)[1])->fault);
        [$status, $body] = self::ask('large', 'pest: x', $text);
        self::assertSame([404, 'there is no such model here; there are note-reader, note-reader-slow, note-liar'], [$status, Chat::fault($body)]);
        self::assertSame(401, (new ChatServer)->answer('Bearer guessed', Chat::request('note-reader', '', $text, 10))[0]);
        foreach (['', '{', '[]', '{"model":["note-reader"]}', '{"model":"note-reader"}', '{"model":"note-reader","messages":[7,{"role":"user"},{"role":["user"],"content":"x"}]}'] as $bad) {
            self::assertContains((new ChatServer)->answer('Bearer '.ChatServer::KEY, $bad)[0], [400, 404], $bad);
        }
    }

    public function test_a_server_that_lies_gives_nothing_that_could_be_taken_for_a_label_out_of_place(): void
    {
        $codebook = self::codebook();
        $met = [];
        foreach (ScoutNotes::plan(60) as $note) {
            $text = Text::of(ScoutNotes::note(new Chance($note['seed']))['text']);
            [$status, $body] = self::ask('note-liar', '{form}', $text->body);
            if ($status !== 200) {
                $met["status {$status}"] = true;
                self::assertMatchesRegularExpression('/^[\x20-\x7e…]{1,200}$/u', Chat::fault($body));

                continue;
            }
            try {
                $said = Chat::said($body);
            } catch (InvalidValue) {
                $met['no answer'] = true;

                continue;
            }
            self::assertNull($said->in);
            $reply = ReplyReader::read($said->words, $text, $codebook, Task::all($codebook));
            $met[$said->fault ?? (count($reply->left) > 10 ? 'many' : 'few')] = true;
            self::assertUsable($reply, $text);
        }
        self::assertEqualsCanonicalizing(['status 429', 'status 500', 'no answer', 'the model refused: I would rather not', 'many', 'few'], array_keys($met));
    }

    private static function assertUsable(Reply $reply, Text $text): void
    {
        self::assertNotSame([], $reply->left);
        foreach ($reply->spans as $one) {
            self::assertTrue($one['span']->end <= $text->length);
        }
    }
}
