<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Intake\TakeFiles;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Pin;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Skeno\Core\People\Role;
use Tests\TestCase;

/** Texts from the door to the release: what comes in, what hands do to it, what goes out. */
final class TextTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Scout notes', [
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'pest', 'name' => 'Pest', 'shapes' => ['span']],
                ['key' => 'count', 'name' => 'Count', 'shapes' => ['span']],
                ['key' => 'leaf', 'name' => 'Leaf', 'shapes' => ['box']],
            ],
            'attributes' => [['key' => 'summary', 'name' => 'Summary', 'type' => 'text', 'scope' => 'item', 'control' => 'paragraphs', 'min' => 3, 'max' => 400]],
            'relations' => [['key' => 'counted', 'name' => 'Counted', 'from' => ['count'], 'to' => ['pest']]],
        ]);
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
    }

    private function file(string $name, string $contents): string
    {
        $file = $this->temporary()."/{$name}";
        file_put_contents($file, $contents);

        return $file;
    }

    /** @param  array<string, mixed>  $options */
    private function import(string $file, array $options = []): array
    {
        $code = Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $file, '--json' => true] + $options);

        return ['code' => $code] + (array) json_decode(Artisan::output(), true);
    }

    private function text(string $body, string $name = 'a.txt'): Item
    {
        $outcome = app(TakeFiles::class)->one($this->project, $this->file($name, $body), "slope/{$name}", false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    public function test_a_file_is_a_text_in_utf8_with_its_encoding_told(): void
    {
        $file = $this->file('b.txt', (string) iconv('UTF-8', 'CP1252', " Très près\r\n3 trees "));
        self::assertSame(0, $this->import($file)['code']);
        $item = Item::query()->firstOrFail();
        self::assertSame(['text', 20, 'WINDOWS-1252'], [$item->kind, $item->asset->facts['length'], $item->asset->facts['encoding']]);
        $shown = $this->api($this->ines, 'get', "/projects/{$this->project->id}/items/{$item->id}/text")->assertOk()->json();
        self::assertSame([" Très près\r\n3 trees ", [1, 4, 1, 4, 2, 1, 1, 5], [2, 2]], [$shown['body'], $shown['words'], $shown['sentences']]);
        $this->api($this->ines, 'get', "/projects/{$this->project->id}/items/{$item->id}/picture?size=thumb")->assertOk()->assertHeader('Content-Type', 'image/svg+xml');
        self::assertSame(1, $this->import($this->file('c.txt', "PK\0\0"))['code']);
        $this->api($this->member($this->project(), Role::Manager), 'get', "/projects/{$this->project->id}/items/{$item->id}/text")->assertStatus(404);
        $this->api($this->mei, 'get', "/projects/{$this->project->id}/items/{$item->id}/text")->assertStatus(404);
    }

    public function test_text_files_beside_pictures_stay_label_files(): void
    {
        $pictures = $this->project('Pictures');
        self::assertSame('passed', app(TakeFiles::class)->one($pictures, $this->file('a.txt', '0 0.5 0.5 0.1 0.1'), 'a.txt', false)->state);
    }

    public function test_a_table_comes_in_once_with_facts_and_names(): void
    {
        $file = $this->file('notes.csv', "id,note,block\r\nn1,\"Aphids, many\",slope\r\nn2,Aphids,slope\r\nn1,Mites,old wall\r\n,,x\r\n");
        $report = $this->import($file, ['--format' => 'csv', '--text' => 'note']);
        self::assertSame([1, 3, 0, 1], [$report['code'], $report['taken'], $report['known'], $report['labels']['skipped_count']]);
        self::assertSame(['notes/n1' => ['block' => 'slope'], 'notes/n1 (2)' => ['block' => 'old wall'], 'notes/n2' => ['block' => 'slope']], Item::query()->orderBy('path')->get()->mapWithKeys(static fn (Item $item): array => [$item->path => $item->facts])->all());
        self::assertSame(3, Layer::query()->where('name', 'agreed')->count(), 'an item never is without its layer');
        $report = $this->import($file, ['--format' => 'csv', '--text' => 'note']);
        self::assertSame([0, 3, 3], [$report['taken'], $report['known'], Item::query()->count()]);
        self::assertSame(2, $this->import($file, ['--format' => 'csv', '--text' => 'remark'])['code']);
    }

    public function test_many_texts_of_one_name_are_numbered_on_and_each_name_is_asked_for_once(): void
    {
        $rows = static fn (int $from, int $to): string => "id,text\n".implode('', array_map(static fn (int $i): string => ($i % 2 ? 's1' : 's2').",note {$i}\n", range($from, $to)));
        DB::enableQueryLog();
        self::assertSame(1300, $this->import($this->file('notes.csv', $rows(1, 1300)), ['--format' => 'csv'])['taken']);
        self::assertLessThan(1400, count(array_filter(DB::getQueryLog(), static fn (array $query): bool => str_starts_with($query['query'], 'select exists'))));
        DB::disableQueryLog();
        self::assertSame(650, Item::query()->where('path', 'like', 'notes/s1%')->count());
        self::assertTrue(Item::query()->where('path', 'notes/s2 (650)')->exists());
        // in another run it goes on behind those that are there
        self::assertSame([100, 1300], array_values(array_intersect_key($this->import($this->file('notes.csv', $rows(1, 1400)), ['--format' => 'csv']), ['taken' => 0, 'known' => 0])));
        self::assertTrue(Item::query()->where('path', 'notes/s1 (700)')->exists());
    }

    public function test_a_null_character_is_no_part_of_a_text(): void
    {
        $report = $this->import($this->file('a.conll', "-DOCSTART- O\n\nWoolly B-pest\n\n-DOCSTART- O\n\naph\0ids B-pest\n"), ['--format' => 'conll']);
        self::assertSame(1, $report['code'], json_encode($report) ?: '');
        self::assertSame(0, DB::table('texts')->whereRaw('instr(cast(body as blob), x\'00\') > 0')->count());
    }

    public function test_conll_comes_back_token_by_token(): void
    {
        $lines = "-DOCSTART- O\n\n12 B-count\nwoolly B-pest\naphids I-pest\n.. O\n\nDon't O\nspray O\n\n-DOCSTART- O\n\nNothing O\n\n";
        $report = $this->import($this->file('train.conll', $lines), ['--format' => 'conll']);
        self::assertSame([0, 2, 2, 1, 1], [$report['code'], $report['taken'], $report['labels']['objects'], $report['labels']['accepted'], $report['labels']['nothing']]);
        self::assertSame(["12 woolly aphids ..\nDon't spray", 'train'], [DB::table('texts')->orderBy('asset_id')->value('body'), Item::query()->orderBy('id')->value('part')]);
        $out = $this->temporary().'/out';
        self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => 'conll', '--out' => $out]));
        self::assertSame($lines, (string) file_get_contents("{$out}/dataset.conll"));
        // once more: the same marks are the same marks
        $report = $this->import($this->file('train.conll', $lines), ['--format' => 'conll']);
        self::assertSame([0, 2, 0, 2], [$report['taken'], $report['known'], $report['labels']['objects'], MarkRow::query()->count()]);
    }

    public function test_jsonl_with_relations_survives_the_trip_and_is_not_doubled(): void
    {
        $line = json_encode(['id' => 'north/7', 'text' => '12 aphids', 'labelled' => 'objects', 'annotations' => [
            ['id' => 'a', 'type' => 'Annotation', 'body' => ['type' => 'TextualBody', 'value' => 'count'], 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 0, 'end' => 2]]],
            ['id' => 'b', 'type' => 'Annotation', 'body' => ['type' => 'TextualBody', 'value' => 'pest'], 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 3, 'end' => 9]]],
            ['id' => 'c', 'type' => 'Annotation', 'motivation' => 'linking', 'body' => [['type' => 'TextualBody', 'value' => 'counted'], ['type' => 'SpecificResource', 'purpose' => 'linking', 'source' => 'b']], 'target' => ['source' => 'a']],
        ]]);
        $file = $this->file('a.jsonl', "{$line}\n");
        foreach (['first', 'again'] as $time) {
            self::assertSame(0, $this->import($file, ['--format' => 'jsonl'])['code'], $time);
        }
        self::assertSame(['count', 'counted', 'pest'], MarkRow::query()->orderBy('class')->pluck('class')->all());
        self::assertSame(2, Item::query()->value('mark_count'), 'a relation is no object');
        foreach (['jsonl', 'csv', 'skeno'] as $format) {
            $out = $this->temporary().'/out';
            self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--format' => $format, '--out' => $out]), Artisan::output());
        }
        $release = $this->api($this->ines, 'post', "/projects/{$this->project->id}/releases/preview", [])->assertOk()->json();
        self::assertSame([2, ['counted' => 1]], [$release['marks'], $release['relations']]);
        $sheet = $this->api($this->ines, 'get', "/projects/{$this->project->id}/objects?sort=size")->assertOk()->json();
        self::assertSame([2, 2], [$sheet['total'], count($sheet['data'])]);
        $this->api($this->ines, 'get', substr($sheet['data'][0]['crop'], 7))->assertOk()->assertHeader('Content-Type', 'image/svg+xml');
    }

    /** @return array{string, array<string, mixed>} */
    private function span(string $class, int $start, int $end): array
    {
        $id = $this->ulid();

        return [$id, ['id' => $this->ulid(), 'action' => 'create', 'mark' => $id, 'base' => 0, 'seconds' => 1, 'data' => ['class' => $class, 'kind' => 'span', 'geometry' => ['start' => $start, 'end' => $end]]]];
    }

    public function test_spans_and_relations_are_drawn_checked_and_decided(): void
    {
        $item = $this->text('12 aphids and mites');
        $tobias = $this->member($this->project, Role::Reviewer, 'Tobias');
        $this->assign($this->project, $this->ines, $this->mei, $tobias);
        $packet = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => []])->assertOk()->json('packet');
        self::assertSame([$item->id, 19], [$packet['item']['id'], $packet['item']['text']['length']]);
        $turn = "/projects/{$this->project->id}/turns/{$packet['turn']['id']}";
        [$count, $first] = $this->span('count', 0, 2);
        [$pest, $second] = $this->span('pest', 3, 9);
        $past = $this->span('pest', 14, 20)[1];
        $box = ['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'seconds' => 1, 'data' => ['class' => 'leaf', 'kind' => 'box', 'geometry' => ['x' => 0, 'y' => 0, 'width' => 3, 'height' => 3]]];
        $join = fn (string $from, string $to): array => ['id' => $this->ulid(), 'action' => 'create', 'mark' => $this->ulid(), 'base' => 0, 'seconds' => 1, 'data' => ['class' => 'counted', 'kind' => 'relation', 'geometry' => ['from' => $from, 'to' => $to]]];
        $wrong = $join($pest, $count);
        $answer = $this->api($this->mei, 'post', "{$turn}/edits", ['edits' => [$first, $second, $past, $box, $join($count, $pest), $wrong, $join($pest, $pest)]])->assertOk()->json();
        self::assertSame(['applied', 'applied', 'refused', 'refused', 'applied', 'applied', 'refused'], array_column($answer['results'], 'outcome'));
        self::assertStringContainsString('an offset up to 19', $answer['results'][2]['reason']);
        self::assertStringContainsString('this item is a text', $answer['results'][3]['reason']);
        self::assertSame(['relation_not_allowed'], array_column($answer['findings'], 'code'));
        $this->api($this->mei, 'post', "{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertStatus(422);
        $gone = ['id' => $this->ulid(), 'action' => 'delete', 'mark' => $wrong['mark'], 'base' => 1, 'seconds' => 0];
        $this->api($this->mei, 'post', "{$turn}/edits", ['edits' => [$gone]])->assertOk();
        $this->api($this->mei, 'post', "{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();

        $review = $this->api($tobias, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'review', 'holding' => []])->assertOk()->json('packet.turn.id');
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", ['offset' => 99, 'text' => 'where?'])->assertStatus(422);
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", ['x' => 1, 'y' => 1, 'text' => 'where?'])->assertStatus(422);
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/pins", ['offset' => 14, 'mark' => null, 'text' => 'mites too'])->assertStatus(201);
        self::assertSame([14, null], [Pin::query()->firstOrFail()->offset, Pin::query()->firstOrFail()->x]);
        $this->api($tobias, 'post', "/projects/{$this->project->id}/turns/{$review}/decision", ['decision' => 'return', 'reason' => 'mites'])->assertOk();
        $back = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => []])->assertOk()->json('packet');
        self::assertSame([14, 3], [$back['pins'][0]['offset'], count($back['marks'])]);
    }

    public function test_a_changed_label_of_an_accepted_text_comes_back_with_its_relations(): void
    {
        $this->import($this->file('a.jsonl', json_encode(['id' => '1', 'text' => '12 aphids', 'labelled' => 'objects', 'annotations' => [
            ['id' => 'a', 'body' => 'count', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 0, 'end' => 2]]],
            ['id' => 'b', 'body' => 'pest', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 3, 'end' => 9]]],
            ['body' => ['counted', ['purpose' => 'linking', 'source' => 'b']], 'target' => ['source' => 'a']],
        ]])."\n"), ['--format' => 'jsonl']);
        $layer = Layer::query()->firstOrFail();
        $item = $layer->item;
        $draft = Layer::query()->create(['project_id' => $this->project->id, 'item_id' => $item->id, 'kind' => 'draft', 'name' => 'draft/1/1']);
        DB::transaction(static fn () => \App\Items\LayerCopy::marks(MarkRow::query()->where('layer_id', $layer->id)->get(), $draft, 'copy', null, origins: true));
        $copies = MarkRow::query()->where('layer_id', $draft->id)->get()->keyBy('class');
        self::assertSame(['from' => $copies['count']->id, 'to' => $copies['pest']->id], $copies['counted']->geometry);
        // one that is new in the draft leads to what is there already
        MarkRow::query()->create(['id' => $this->ulid(), 'project_id' => $this->project->id, 'item_id' => $item->id, 'layer_id' => $draft->id, 'layer' => 'draft', 'source' => 'hand', 'class' => 'counted', 'kind' => 'relation', 'geometry' => ['from' => $copies['pest']->id, 'to' => $copies['count']->id], 'answers' => [], 'flags' => [], 'revision' => 1]);
        DB::transaction(static fn () => \App\Items\LayerCopy::merge($draft->refresh(), $layer->refresh(), 'merge', null));
        $agreed = MarkRow::query()->where('layer_id', $layer->id)->whereNull('deleted_at')->get();
        $spans = $agreed->where('kind', 'span')->pluck('id')->all();
        self::assertCount(2, $agreed->where('kind', 'relation'));
        foreach ($agreed->where('kind', 'relation') as $relation) {
            self::assertSame([], array_diff(array_values($relation->geometry), $spans), 'it leads between the marks of its own layer');
        }
    }

    public function test_relations_go_with_a_changed_codebook(): void
    {
        $this->import($this->file('a.jsonl', json_encode(['id' => '1', 'text' => '12 aphids', 'labelled' => 'objects', 'annotations' => [
            ['id' => 'a', 'body' => 'count', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 0, 'end' => 2]]],
            ['id' => 'b', 'body' => 'pest', 'target' => ['selector' => ['type' => 'TextPositionSelector', 'start' => 3, 'end' => 9]]],
            ['body' => ['counted', ['purpose' => 'linking', 'source' => 'b']], 'target' => ['source' => 'a']],
        ]])."\n"), ['--format' => 'jsonl']);
        $document = $this->project->codebookVersion()->codebook()->toArray();
        $document['relations'][0]['key'] = 'number_of';
        $check = $this->api($this->ines, 'post', "/projects/{$this->project->id}/codebook/check", ['document' => $document])->assertOk()->json();
        self::assertSame(['relation:counted'], array_column($check['orphans'], 'address'));
        self::assertSame('1 relation of "Counted" would have no place', $check['orphans'][0]['message']);
        self::assertSame('number_of', $check['orphans'][0]['guess']);
        $this->api($this->ines, 'put', "/projects/{$this->project->id}/codebook", ['document' => $document, 'mapping' => ['relation:counted' => 'number_of'], 'base' => 1])->assertOk();
        self::assertSame(['number_of'], MarkRow::query()->where('kind', 'relation')->pluck('class')->all());
        $document['relations'][0]['from'] = ['pest'];
        $check = $this->api($this->ines, 'post', "/projects/{$this->project->id}/codebook/check", ['document' => $document])->assertOk()->json();
        self::assertStringContainsString('no longer leads from Count', implode(' ', array_column($check['effects'] ?? $check['report'], 'message')));
    }

    public function test_a_table_is_seen_before_it_is_taken_over_the_api(): void
    {
        $import = $this->api($this->ines, 'post', "/projects/{$this->project->id}/imports", ['texts' => ['format' => 'csv']])->assertStatus(201)->json('id');
        $csv = "who;remark\nMei;Aphids on row 3\nRavi;Mites\n";
        $this->api($this->ines, 'get', "/projects/{$this->project->id}/imports/{$import}/columns")->assertStatus(409);
        $file = $this->api($this->ines, 'post', "/projects/{$this->project->id}/imports/{$import}/files", ['path' => 'season/notes.csv', 'bytes' => strlen($csv)])->assertStatus(201)->json('id');
        $this->api($this->ines, 'put', "/projects/{$this->project->id}/imports/{$import}/files/{$file}?offset=0", $csv)->assertOk();
        $seen = $this->api($this->ines, 'get', "/projects/{$this->project->id}/imports/{$import}/columns")->assertOk()->json();
        self::assertSame([['who', 'remark'], null, 'Mites'], [$seen['columns'], $seen['guess']['text'], $seen['rows'][1]['remark']]);
        $this->api($this->ines, 'post', "/projects/{$this->project->id}/imports/{$import}/finish", ['columns' => ['text' => 'remark', 'id' => null, 'facts' => ['who']]])->assertOk();
        self::assertSame(['season/notes/000001' => ['who' => 'Mei'], 'season/notes/000002' => ['who' => 'Ravi']], Item::query()->orderBy('path')->get()->mapWithKeys(static fn (Item $item): array => [$item->path => $item->facts])->all());
        $this->api($this->ines, 'post', "/projects/{$this->project->id}/imports", ['texts' => ['format' => 'coco']])->assertStatus(422);
    }

    public function test_where_nothing_can_be_drawn_answers_alone_are_submitted(): void
    {
        $project = $this->project('Summaries', ['skeno' => 'codebook/1', 'classes' => [], 'attributes' => [['key' => 'summary', 'name' => 'Summary', 'type' => 'text', 'scope' => 'item', 'control' => 'paragraphs', 'required' => true]]]);
        $ines = $this->member($project, Role::Manager, 'Ines of the summaries');
        self::assertSame('taken', app(TakeFiles::class)->one($project, $this->file('a.txt', 'A long note.'), 'a.txt', false)->state);
        $this->assign($project, $ines, $mei = $this->member($project, Role::Labeller, 'Mei of the summaries'), null);
        $turn = $this->api($mei, 'post', "/projects/{$project->id}/next", ['purpose' => 'label', 'holding' => []])->json('packet.turn.id');
        $this->api($mei, 'post', "/projects/{$project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertStatus(422);
        $this->api($mei, 'post', "/projects/{$project->id}/turns/{$turn}/edits", ['edits' => [['id' => $this->ulid(), 'action' => 'create', 'mark' => null, 'base' => 0, 'seconds' => 1, 'data' => ['kind' => 'item', 'answers' => ['summary' => ['value' => 'Short.']], 'tags' => []]]]])->assertOk();
        $this->api($mei, 'post', "/projects/{$project->id}/turns/{$turn}/submit", ['nothing' => false, 'anyway' => false])->assertOk();
    }

    public function test_items_are_found_by_what_they_say(): void
    {
        $this->text('Aphids, 100% of them_', 'a.txt');
        $this->text('Nothing', 'b.txt');
        $find = fn (string $f): array => array_column($this->api($this->ines, 'get', "/projects/{$this->project->id}/items?f[]=".rawurlencode($f))->assertOk()->json('data'), 'name');
        self::assertSame(['a.txt'], $find('words:aphids'));
        self::assertSame(['a.txt'], $find('words:100%'));
        self::assertSame([], $find('words:100_'));
        self::assertSame(['b.txt'], $find('-words:them_'));
        $this->api($this->ines, 'get', "/projects/{$this->project->id}/items?f[]=words:")->assertStatus(422);
    }

    public function test_items_are_found_by_a_pattern_on_what_they_say_among_what_other_conditions_leave(): void
    {
        $this->text('12 aphids by the wall', 'a.txt');
        $this->text('About 4 Aphids', 'b.txt');
        $this->text('No aphids; 3 mites', 'c.txt');
        $this->text('Nothing', 'd.txt');
        $find = function (string ...$f): array {
            $found = $this->api($this->ines, 'get', "/projects/{$this->project->id}/items?".implode('&', array_map(static fn (string $one): string => 'f[]='.rawurlencode($one), $f)))->assertOk();

            return [array_column($found->json('data'), 'name'), array_column($found->json('steps'), 'found')];
        };
        self::assertSame([['a.txt', 'b.txt'], [2]], $find('re-words:\\b\\d+ aphids\\b'));
        self::assertSame([['c.txt', 'd.txt'], [2]], $find('-re-words:\\b\\d+ aphids\\b'));
        self::assertSame([['c.txt'], [3, 2, 1]], $find('words:aphids', 're:[bcd]\\.txt$', 're-words:^no '));
        self::assertSame([['b.txt'], [3, 1, 1]], $find('-re-words:^nothing', 're:b', '-words:mites'));
        self::assertSame([[], [0, 0]], $find('re-words:zebra', 're:a'));
        foreach (['re-words:(', 're-words:', 're-words:'.str_repeat('a', 201)] as $wrong) {
            $this->api($this->ines, 'get', "/projects/{$this->project->id}/items?f[]=".rawurlencode($wrong))->assertStatus(422)->assertJsonPath('field', 're-words');
        }
        // a picture says nothing
        $this->items($this->project, 1);
        self::assertSame(3, count($find('-re-words:\\b\\d+ aphids\\b')[0]));
    }

    public function test_the_same_words_are_told_and_odd_ones_found(): void
    {
        $lines = '';
        foreach (range(1, 12) as $n) {
            $lines .= json_encode(['id' => "n{$n}", 'text' => "Row {$n}: woolly aphids.", 'labelled' => 'objects', 'annotations' => [['body' => 'pest', 'target' => ['selector' => ['type' => 'TextQuoteSelector', 'exact' => $n === 7 ? "Row {$n}" : 'woolly aphids']]]]])."\n";
        }
        self::assertSame(0, $this->import($this->file('a.jsonl', $lines), ['--format' => 'jsonl'])['code']);
        app(\App\Looks\LookAtObjects::class)->run($this->project);
        $odd = $this->api($this->ines, 'get', "/projects/{$this->project->id}/objects?class=pest&sort=oddness")->assertOk()->json('data');
        self::assertSame(['before' => '', 'words' => 'Row 7', 'after' => ': woolly aphids.'], $odd[0]['words']);
        self::assertGreaterThan($odd[1]['oddness'], $odd[0]['oddness']);
        $this->text('More woolly aphids', 'z.txt');
        $this->assign($this->project, $this->ines, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => []])->json('packet.turn.id');
        $phrases = $this->api($this->mei, 'get', "/projects/{$this->project->id}/turns/{$turn}/phrases")->assertOk()->json('data');
        self::assertSame(['words' => 'woolly aphids', 'class' => 'pest', 'count' => 11], $phrases[0]);
    }

    public function test_answers_in_paragraphs_have_limits_of_their_own(): void
    {
        $this->text('Long note.');
        $this->assign($this->project, $this->ines, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", ['purpose' => 'label', 'holding' => []])->json('packet.turn.id');
        $say = fn (string $text, int $base): array => ['id' => $this->ulid(), 'action' => $base === 0 ? 'create' : 'change', 'mark' => null, 'base' => $base, 'seconds' => 1, 'data' => ['kind' => 'item', 'answers' => ['summary' => ['value' => $text]], 'tags' => []]];
        $path = "/projects/{$this->project->id}/turns/{$turn}/edits";
        self::assertSame(['answer_not_allowed'], array_column($this->api($this->mei, 'post', $path, ['edits' => [$say('no', 0)]])->assertOk()->json('findings'), 'code'));
        self::assertSame([], $this->api($this->mei, 'post', $path, ['edits' => [$say("First.\n\nSecond paragraph.", 1)]])->assertOk()->json('findings'));
    }
}
