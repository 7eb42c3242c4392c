<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Formats;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Conll\ConllReader;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\Jsonl\JsonlReader;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\Texts\Columns;
use Skeno\Core\Formats\Texts\ComingText;
use Skeno\Core\Formats\Texts\Lines;
use Skeno\Core\Formats\Texts\Table;
use Skeno\Core\Formats\Texts\TextsReader;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Join;
use Skeno\Core\Geometry\Span;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Release\Edition;
use Skeno\Core\Release\Recipe;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Text\Text;
use Skeno\Core\Text\Tokens;

final class TextFormatsTest extends TestCase
{
    public static function codebook(): Codebook
    {
        return Codebook::fromArray([
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'pest', 'name' => 'Pest', 'shapes' => ['span'], 'attributes' => ['alive']],
                ['key' => 'count', 'name' => 'Count', 'shapes' => ['span']],
                ['key' => 'block', 'name' => 'Orchard block', 'shapes' => ['span']],
            ],
            'attributes' => [
                ['key' => 'alive', 'name' => 'Alive', 'type' => 'yesno', 'scope' => 'object'],
                ['key' => 'summary', 'name' => 'Summary', 'type' => 'text', 'scope' => 'item', 'control' => 'paragraphs'],
            ],
            'tags' => [['key' => 'urgent', 'name' => 'Urgent']],
            'relations' => [['key' => 'counted', 'name' => 'Counted', 'from' => ['count'], 'to' => ['pest']]],
        ]);
    }

    private static function mark(int $n, string $class, int $start, int $end): Mark
    {
        return Mark::of(Samples::id($n), $class, Span::of($start, $end), $class === 'pest' ? ['alive' => Answer::of(true)] : []);
    }

    /** @return list<DatasetItem> in byte order of their paths: overlaps, a relation, nothing there, not labelled, other scripts */
    public static function items(): array
    {
        $item = static fn (string $path, Text $text, Labelled $labelled, array $marks = [], ?ItemAnswers $said = null): DatasetItem => new DatasetItem($path, 0, 0, hash('sha256', $text->body), $labelled, $marks, null, 'accepted', 1, $said, null, null, $text);

        return [
            // 0         1         2
            // 012345678901234567890123456
            $item('notes/1.txt', Text::of("12 woolly aphids, 3 codling\nmoths."), Labelled::Objects, [
                self::mark(1, 'count', 0, 2), self::mark(2, 'pest', 3, 16), self::mark(3, 'pest', 10, 16), self::mark(4, 'pest', 20, 33),
                Mark::of(Samples::id(5), 'counted', Join::of(Samples::id(1), Samples::id(2))),
            ], ItemAnswers::of(['summary' => Answer::of("Aphids.\n\nAnd moths, \"three\" of them.")], ['urgent'])),
            $item('notes/2.txt', Text::of('Nothing to see.'), Labelled::Nothing),
            $item('notes/3.txt', Text::of('Nobody has read this.'), Labelled::Unlabelled),
            $item('notes/4.txt', Text::of("=SUM(A1) 👩‍🌾 ראתה כנימה\u{200F} e\u{301}t"), Labelled::Objects, [self::mark(6, 'pest', 18, 23)]),
            $item('notes/5.txt', Text::of("Don't go\nback", Tokens::of([0, 2, 6, 9], [2, 5, 8, 13], [3, 1])), Labelled::Objects, [self::mark(7, 'block', 6, 8)]),
        ];
    }

    /**
     * @param  list<DatasetItem>  $items
     * @return array{Folder, array<string, int>} the folder, and counts of what the format could not hold
     */
    private static function written(Format $format, array $items): array
    {
        $target = Samples::temporaryFolder().'/out';
        $codebook = self::codebook();
        $done = Edition::write(Samples::dataset($items, $codebook), Recipe::fromArray([], $codebook), $codebook, $format, false, $target, []);

        return [new Folder($target), array_column($done['mapping'], 'count', 'what')];
    }

    public function test_conll_has_a_token_a_line(): void
    {
        [$folder, $mapping] = self::written(Format::Conll, self::items());
        self::assertSame(
            "-DOCSTART- O\n\n12 B-count\nwoolly B-pest\naphids I-pest\n, O\n3 O\ncodling B-pest\nmoths I-pest\n. O\n\n"
            ."-DOCSTART- O\n\nNothing O\nto O\nsee O\n. O\n\n"
            ."-DOCSTART- O\n\n= O\nSUM O\n( O\nA1 O\n) O\n👩‍🌾 O\nראתה O\nכנימה\u{200F} B-pest\ne\u{301}t O\n\n"
            ."-DOCSTART- O\n\nDo O\nn't O\ngo B-block\n\nback O\n\n",
            $folder->read('dataset.conll'),
        );
        self::assertSame("file,number,path,tokens\r\ndataset.conll,1,notes/1.txt,8\r\ndataset.conll,2,notes/2.txt,4\r\ndataset.conll,3,notes/4.txt,9\r\ndataset.conll,4,notes/5.txt,4\r\n", $folder->read('texts.csv'));
        self::assertEquals([
            'answers about spans can not be said in CoNLL' => 4, 'spans over which another lies were left out: a token has one tag' => 1, 'spans that begin or end within a token were widened to it' => 1,
            'relations can not be said in CoNLL' => 1, 'answers about texts can not be said in CoNLL' => 1, 'tags of texts can not be said in CoNLL' => 1, 'texts nobody has labelled were left out: their tokens would look as if nothing were there' => 1,
        ], $mapping);
    }

    public function test_jsonl_has_web_annotations_by_code_points(): void
    {
        [$folder, $mapping] = self::written(Format::Jsonl, self::items());
        $lines = array_map(static fn (string $line): array => (array) json_decode($line, true), explode("\n", trim($folder->read('dataset.jsonl'))));
        self::assertSame([], $mapping);
        self::assertSame(['objects', 'nothing', 'unlabelled', 'objects', 'objects'], array_column($lines, 'labelled'));
        self::assertSame("12 woolly aphids, 3 codling\nmoths.", $lines[0]['text']);
        self::assertSame(['type' => 'TextPositionSelector', 'start' => 3, 'end' => 16], $lines[0]['annotations'][1]['target']['selector']);
        self::assertSame('pest', $lines[0]['annotations'][1]['body']['value']);
        self::assertSame(['urn:ulid:'.Samples::id(2), 'urn:ulid:'.Samples::id(1)], [$lines[0]['annotations'][4]['body'][1]['source'], $lines[0]['annotations'][4]['target']['source']]);
        self::assertSame([[0, 2, 0, 3, 1, 2, 1, 4], [3, 1]], [$lines[4]['tokens']['words'], $lines[4]['tokens']['sentences']]);
        $schema = dirname(__DIR__, 3).'/docs/text.schema.json';
        $validator = new \Opis\JsonSchema\Validator;
        $validator->parser()->setDefaultDraftVersion('2020-12');
        foreach (explode("\n", trim($folder->read('dataset.jsonl'))) as $line) {
            self::assertTrue($validator->validate(json_decode($line), (string) file_get_contents($schema))->isValid(), $line);
        }
    }

    public function test_tables_of_spans_relations_and_answers(): void
    {
        [$folder] = self::written(Format::Csv, self::items());
        self::assertStringContainsString('notes/1.txt,'.Samples::id(2).',pest,Pest,3,16,woolly aphids,,,,yes', $folder->read('spans.csv'));
        self::assertStringContainsString('notes/1.txt,'.Samples::id(5).',counted,Counted,'.Samples::id(1).','.Samples::id(2), $folder->read('relations.csv'));
        self::assertStringContainsString("notes/4.txt,'=SUM", $folder->read('texts.csv'));
        self::assertStringContainsString(',objects,urgent,"Aphids.', $folder->read('items.csv'));
    }

    /** @return iterable<string, array{Format}> */
    public static function loss_free(): iterable
    {
        foreach ([Format::Jsonl, Format::Csv, Format::Skeno] as $format) {
            yield $format->value => [$format];
        }
    }

    #[DataProvider('loss_free')]
    public function test_what_was_written_is_read_the_same(Format $format): void
    {
        [$folder] = self::written($format, self::items());
        $known = new KnownPictures(array_map(static fn (DatasetItem $item, int $i): KnownPicture => new KnownPicture($i, $item->path, 0, 0, null, $item->text?->length), self::items(), array_keys(self::items())));
        $read = $said = [];
        foreach ($format->reader(self::codebook(), Samples::ids())->read($folder->root, $known) as $one) {
            self::assertInstanceOf(ReadLabels::class, $one);
            foreach ($one->marks as $mark) {
                $read[$one->picture->path][] = [$mark->class, $mark->geometry instanceof Join ? 'joined' : $mark->geometry->toArray(), array_map(static fn (Answer $answer): array => $answer->toArray(), $mark->answers)];
            }
            $said[$one->picture->path] = ($said[$one->picture->path] ?? []) + ($one->said?->toArray() ?? []);
        }
        foreach (self::items() as $item) {
            $wanted = array_map(static fn (Mark $mark): array => [$mark->class, $mark->geometry instanceof Join ? 'joined' : $mark->geometry->toArray(), array_map(static fn (Answer $answer): array => $answer->toArray(), $mark->answers)], $item->marks);
            self::assertSame($wanted, $read[$item->path] ?? [], $item->path);
        }
        self::assertSame(self::items()[0]->said->toArray(), $said['notes/1.txt']);
    }

    /** @return list<ComingText|Skipped|Notice> */
    private static function texts(TextsReader $reader, string $name, string $contents): array
    {
        $file = Samples::temporaryFolder()."/{$name}";
        file_put_contents($file, $contents);

        return [...$reader->texts($file)];
    }

    /** @return iterable<string, array{string, list<array{string, string}>}> */
    public static function tag_ways(): iterable
    {
        $pests = [['pest', 'woolly aphids'], ['pest', 'moths'], ['block', 'Slope']];
        yield 'BIO' => ["woolly B-pest\naphids I-pest\nmoths B-pest\nnear O\nSlope B-block\n", $pests];
        yield 'IOB, where only what touches begins anew' => ["woolly I-pest\naphids I-pest\nmoths B-pest\nnear O\nSlope I-block\n", $pests];
        yield 'BIOES' => ["woolly B-pest\naphids E-pest\nmoths S-pest\nnear O\nSlope S-block\n", $pests];
        yield 'BILOU, names of classes, columns between, tabs' => ["woolly\tJJ\tB-Pest\naphids\tNN\tL-Pest\nmoths\tNN\tU-Pest\nnear\tIN\tO\nSlope\tNN\tU-Orchard block\n", $pests];
        yield 'another class goes on' => ["woolly B-pest\naphids I-pest\nmoths I-block\nnear O\nSlope B-block\r\n", [['pest', 'woolly aphids'], ['block', 'moths'], ['block', 'Slope']]];
    }

    /** @param  list<array{string, string}>  $spans */
    #[DataProvider('tag_ways')]
    public function test_conll_is_read_in_the_ways_it_is_written(string $lines, array $spans): void
    {
        $read = array_values(array_filter(self::texts(new ConllReader(self::codebook(), Samples::ids()), 'a.conll', $lines), static fn (object $one): bool => $one instanceof ComingText));
        self::assertCount(1, $read);
        self::assertSame('woolly aphids moths near Slope', $read[0]->text->body);
        self::assertSame($spans, array_map(static fn (Mark $mark): array => [$mark->class, $mark->geometry instanceof Span ? $read[0]->text->words($mark->geometry) : ''], $read[0]->marks));
    }

    public function test_conll_texts_sentences_and_what_does_not_come_in(): void
    {
        $read = self::texts(new ConllReader(self::codebook(), Samples::ids()), 'train.conll', "# newdoc id = x\n-DOCSTART- -X- O\n\n# O\none B-worm\n\n\nétés B-pest\n\n-DOCSTART- O\n\n-DOCSTART- O\nbare\nwords\n\n-DOCSTART- O\n\ntwo Q-pest\n");
        self::assertSame([
            'token 1 of the text at line 2: the codebook has no class "worm"', "# one\nétés objects train", ' nothing train', 'bare words unlabelled train',
            'token 0 of the text at line 16: its tag "Q-pest" is neither O nor begins with B-, I-, E-, L-, S- or U-', 'two nothing train',
        ], array_map(static fn (ComingText|Skipped|Notice $one): string => match (true) {
            $one instanceof Skipped => "{$one->place}: {$one->reason}",
            $one instanceof Notice => $one->what,
            default => "{$one->text->body} {$one->labelled?->value} {$one->part?->value}",
        }, $read));
        self::assertInstanceOf(ComingText::class, $read[1]);
        self::assertSame([[0, 2, 6], [1, 5, 10], [2, 1]], [$read[1]->text->tokens?->starts, $read[1]->text->tokens?->ends, $read[1]->text->tokens?->sentences]);
        self::assertSame(Part::Train, $read[1]->part);
    }

    public function test_a_line_is_whole_however_long_and_refused_past_its_limit(): void
    {
        $file = Samples::temporaryFolder().'/a.csv';
        $long = str_repeat('été ', 60_000);
        foreach (['UTF-8', 'UTF-16LE'] as $encoding) {
            file_put_contents($file, ($encoding === 'UTF-8' ? '' : "\xFF\xFE").mb_convert_encoding("one\r\n{$long}\n\ntwo", $encoding, 'UTF-8'));
            self::assertSame([1 => 'one', $long, '', 'two'], iterator_to_array(Lines::of($file)), $encoding);
        }
        $out = fopen($file, 'wb');
        self::assertIsResource($out);
        fwrite($out, "one\n");
        for ($i = 0; $i <= Lines::LONGEST >> 20; $i++) {
            fwrite($out, str_repeat('a', 1 << 20));
        }
        fclose($out);
        $this->expectException(UnreadableLabels::class);
        $this->expectExceptionMessage('"a.csv", line 2: it is longer than 64 MB');
        iterator_to_array(Lines::of($file));
    }

    public function test_conll_labels_find_their_words_in_a_text_that_is_spaced_otherwise(): void
    {
        $text = Text::of("12  woolly\naphids, fine.");
        $folder = Samples::temporaryFolder();
        file_put_contents("{$folder}/a.conll", "12 B-count\nwoolly B-pest\naphids I-pest\n, O\nfine O\n. O\n");
        file_put_contents("{$folder}/texts.csv", "file,number,path,tokens\r\na.conll,1,notes/7.txt,6\r\n");
        $known = new KnownPictures([new KnownPicture(7, 'notes/7.txt', 0, 0, null, $text->length)], static fn (): Text => $text);
        $read = [...(new ConllReader(self::codebook(), Samples::ids()))->read($folder, $known)];
        self::assertCount(1, $read);
        self::assertInstanceOf(ReadLabels::class, $read[0]);
        self::assertSame([[0, 2], [4, 17]], array_map(static fn (Mark $mark): array => array_values($mark->geometry->toArray()), $read[0]->marks));
        $other = new KnownPictures([new KnownPicture(7, 'notes/7.txt', 0, 0, null, 3)], static fn (): Text => Text::of('no!'));
        $read = [...(new ConllReader(self::codebook(), Samples::ids()))->read($folder, $other)];
        self::assertInstanceOf(Skipped::class, $read[0]);
        self::assertStringContainsString('not the words of', $read[0]->reason);
    }

    /** Every span that is written stands in its tags, none over another, and reading gives what was held: against all spans by hand. */
    public function test_written_tags_are_what_a_look_at_each_token_says(): void
    {
        $chance = new Randomizer(new Xoshiro256StarStar(11));
        for ($round = 0; $round < 40; $round++) {
            $words = array_map(static fn (int $n): string => ['aphid', 'x', 'né', '虫', 'ok.'][$n], array_map(static fn (): int => $chance->getInt(0, 4), range(1, 30)));
            $text = Text::of(implode($round % 2 === 0 ? ' ' : "\n", $words));
            $marks = [];
            for ($n = 1; $n <= 12; $n++) {
                $start = $chance->getInt(0, $text->length - 2);
                $marks[] = self::mark($n, ['pest', 'count'][$n % 2], $start, $chance->getInt($start + 1, min($text->length, $start + 9)));
            }
            $bio = \Skeno\Core\Formats\Conll\Bio::of($text, $marks);
            self::assertSame(count($marks), count($bio->held) + $bio->over + $bio->empty);
            $wanted = array_fill(0, count($bio->words), 'O');
            $tokens = \Skeno\Core\Text\WordBreaks::of($text);
            foreach ($bio->held as [$mark, $first, $last]) {
                $span = $mark->geometry;
                self::assertInstanceOf(Span::class, $span);
                foreach ($tokens->starts as $i => $start) {
                    $in = $start < $span->end && $tokens->ends[$i] > $span->start;
                    self::assertSame($i >= $first && $i <= $last, $in);
                    if ($in) {
                        self::assertSame('O', $wanted[$i]);
                        $wanted[$i] = ($i === $first ? 'B-' : 'I-').$mark->class;
                    }
                }
            }
            self::assertSame($wanted, $bio->tags);
            self::assertSame(count($bio->words), array_sum($bio->sentences));
        }
    }

    public function test_a_table_is_looked_at_before_it_is_taken(): void
    {
        $file = Samples::temporaryFolder().'/notes.csv';
        file_put_contents($file, (string) iconv('UTF-8', 'CP1252', "id;Note;scout;1st\r\nn1;\"Aphids;\r\nà gauche\";Mei;x\r\nn2;;Ravi;y\r\n"));
        $table = new Table(false, Columns::guessed());
        self::assertSame(['columns' => ['id', 'Note', 'scout', '1st'], 'rows' => [['id' => 'n1', 'Note' => "Aphids;\r\nà gauche", 'scout' => 'Mei', '1st' => 'x'], ['id' => 'n2', 'Note' => '', 'scout' => 'Ravi', '1st' => 'y']], 'guess' => ['text' => 'Note', 'id' => 'id', 'facts' => ['scout', '1st']]], $table->look($file));
        $read = [...$table->texts($file)];
        self::assertInstanceOf(Notice::class, $read[0], 'a name no fact can have');
        self::assertInstanceOf(ComingText::class, $read[1]);
        self::assertSame(['n1', "Aphids;\r\nà gauche", ['scout' => 'Mei']], [$read[1]->name, $read[1]->text->body, $read[1]->facts]);
        self::assertInstanceOf(Skipped::class, $read[2]);
        self::assertSame('its text is empty', $read[2]->reason);
    }

    /** @return iterable<string, array{bool, string, string}> */
    public static function broken_tables(): iterable
    {
        yield 'a million columns' => [false, str_repeat('a,', 1_000_000)."b\n", 'more than 500 columns'];
        yield 'the same name twice' => [false, "text,text\na,b\n", 'the same name'];
        yield 'no text' => [false, "scout,block\nMei,slope\n", 'which column is the text'];
        yield 'an encoding that changes' => [false, str_repeat("text\nokay\n", 2)."caf\xE9\0\n", 'holds null|not in|told|text'];
        yield 'nothing' => [false, '', 'no first line'];
        yield 'no text in objects' => [true, "{\"scout\":\"Mei\"}\n", 'which column is the text'];
    }

    #[DataProvider('broken_tables')]
    public function test_a_table_that_is_none_is_refused_by_reason(bool $json, string $contents, string $reason): void
    {
        $read = [];
        try {
            $read = self::texts(new Table($json, Columns::guessed()), 'a.csv', $contents);
        } catch (UnreadableLabels $e) {
            self::assertMatchesRegularExpression("/{$reason}/", $e->getMessage());

            return;
        }
        self::assertContainsOnlyInstancesOf(Skipped::class, array_filter($read, static fn (object $one): bool => ! $one instanceof ComingText));
        self::assertNotSame([], array_filter($read, static fn (object $one): bool => $one instanceof Skipped && preg_match("/{$reason}/", $one->reason) === 1));
    }

    public function test_annotations_by_others_and_what_does_not_fit(): void
    {
        $line = json_encode(['note' => 'Two mites, two moths.', 'id' => 'x/1', 'scout' => 'Aoife', 'labelled' => 'objects', 'annotations' => [
            ['type' => 'Annotation', 'body' => [['type' => 'TextualBody', 'value' => 'Pest']], 'target' => [['selector' => [['type' => 'TextQuoteSelector', 'exact' => 'mites']]]]],
            ['body' => 'pest', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 15, 'end' => 20]]],
            ['body' => 'pest', 'target' => ['selector' => ['type' => 'TextQuoteSelector', 'exact' => 'wo']]],
            ['body' => 'pest', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 15, 'end' => 99]]],
            ['body' => 'beetle', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 0, 'end' => 3]]],
        ]]);
        $read = self::texts(new JsonlReader(self::codebook(), Samples::ids(), Columns::of('note')), 'a.jsonl', "{$line}\n\n[1]\n{\"note\":\"bare\"}\n");
        self::assertSame([
            'line 1, annotations[2]: annotations[2].target.selector.exact is "wo"; expected words the text has once, or offsets',
            'line 1, annotations[3]: annotations[3].target.selector.end is 99; expected an offset up to 21, where the text ends',
            'line 1, annotations[4]: annotations[4].body is "beetle"; expected a class of the codebook',
            'x/1 mites|moths objects', 'line 3: it is no JSON object', '  unlabelled',
        ], array_map(static fn (ComingText|Skipped|Notice $one): string => match (true) {
            $one instanceof Skipped => "{$one->place}: {$one->reason}",
            $one instanceof Notice => $one->what,
            default => "{$one->name} ".implode('|', array_map(static fn (Mark $mark): string => $mark->geometry instanceof Span ? $one->text->words($mark->geometry) : '', $one->marks))." {$one->labelled?->value}",
        }, $read));
        self::assertInstanceOf(ComingText::class, $read[3]);
        self::assertSame(['scout' => 'Aoife'], $read[3]->facts);
    }

    public function test_pictures_and_texts_do_not_get_into_each_others_formats(): void
    {
        $items = [...Samples::items(), ...self::items()];
        $both = Codebook::fromArray(['classes' => [...self::codebook()->toArray()['classes'], ...Samples::document()['classes']], 'attributes' => [...self::codebook()->toArray()['attributes'], ...Samples::document()['attributes']]] + self::codebook()->toArray());
        foreach ([Format::Coco->value => 'texts can not be said in this format and were left out', Format::Jsonl->value => 'items that are neither texts nor documents were left out', Format::Conll->value => 'items that are no texts were left out'] as $format => $what) {
            $done = Edition::write(Samples::dataset(array_values(array_filter($items, static fn (DatasetItem $item): bool => true)), $both), Recipe::fromArray([], $both), $both, Format::from($format), false, Samples::temporaryFolder().'/out', []);
            self::assertContains($what, array_column($done['mapping'], 'what'));
        }
    }
}
