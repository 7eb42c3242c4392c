<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Documents\ReadDocument;
use App\Intake\TakeFiles;
use App\Models\Asset;
use App\Models\Import;
use App\Models\Item;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Reading;
use App\Models\User;
use App\Upkeep\Resume;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use Imagick;
use Skeno\Core\People\Role;
use Skeno\Core\Tests\Document\Papers;
use Tests\TestCase;

/** Documents from the door to the release: what comes in, what hands do on its pages, what goes out. */
final class DocumentTest extends TestCase
{
    private Project $project;

    private User $ines;

    private User $mei;

    private string $base;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Bin tickets', [
            'skeno' => 'codebook/1',
            'classes' => [
                ['key' => 'weight', 'name' => 'Weight line', 'shapes' => ['box'], 'attributes' => ['written']],
                ['key' => 'signature', 'name' => 'Signature', 'shapes' => ['box', 'polygon', 'mask']],
            ],
            'attributes' => [
                ['key' => 'written', 'name' => 'What is written', 'type' => 'text', 'scope' => 'object', 'required' => true, 'reads' => true],
                ['key' => 'page_kind', 'name' => 'Kind of page', 'type' => 'one', 'scope' => 'page', 'required' => true, 'options' => [['key' => 'front', 'name' => 'Front'], ['key' => 'lines', 'name' => 'Lines']]],
            ],
        ]);
        $this->ines = $this->member($this->project, Role::Manager, 'Ines');
        $this->mei = $this->member($this->project, Role::Labeller, 'Mei');
        $this->base = "/projects/{$this->project->id}";
    }

    private function pdf(int $pages = 2, string $name = 'ticket.pdf', string $word = 'Weight'): string
    {
        return Papers::pdf($this->temporary()."/{$name}", array_map(static fn (int $page): array => [300.0, 400.0 + 20 * ($page % 2), [[50.0, 100.0, "{$word} {$page}12 kg"]]], range(1, $pages)));
    }

    private function document(?string $file = null): Item
    {
        $outcome = app(TakeFiles::class)->one($this->project, $file ?? $this->pdf(), 'bins/ticket.pdf', false);
        self::assertSame('taken', $outcome->state, $outcome->reason);

        return Item::query()->findOrFail($outcome->item);
    }

    /** @param  array<string, mixed>  $options */
    private function import(string $path, array $options = []): array
    {
        $code = Artisan::call('skeno:import', ['project' => (string) $this->project->id, 'path' => $path, '--json' => true] + $options);

        return ['code' => $code] + (array) json_decode(Artisan::output(), true);
    }

    public function test_a_pdf_is_a_document_with_its_pages_and_the_words_on_them(): void
    {
        $item = $this->document();
        self::assertSame(['document', 2, 625, 875], [$item->kind, $item->places(), $item->asset->width, $item->asset->height]);
        $shown = $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}")->assertOk()->json();
        self::assertSame([2, [[625, 875, 1], [625, 834, 1]], 150, 'pdf'], [$shown['document']['pages'], $shown['document']['sheets'], $shown['document']['resolution'], $shown['document']['format']]);
        foreach ([0 => 875, 1 => 834] as $place => $height) {
            $page = new Imagick;
            $page->readImageBlob($this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/picture?place={$place}&size=screen")->assertOk()->streamedContent());
            self::assertSame([625, $height], [$page->getImageWidth(), $page->getImageHeight()]);
            $words = $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/words?place={$place}")->assertOk()->json();
            self::assertSame(['layer', ['Weight', ($place + 1).'12', 'kg']], [$words['source'], array_column($words['words'], 0)]);
        }
        $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/words?place=2")->assertStatus(422);
        $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/picture?place=2")->assertStatus(422);
        $this->api($this->mei, 'get', "{$this->base}/items/{$item->id}/words")->assertStatus(404);
        // all of it was read behind, from its text layer
        self::assertSame(['done', 2], array_values(array_intersect_key((array) $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/reading")->assertOk()->json('data'), ['state' => 0, 'done' => 0])));
        self::assertSame(2, DB::table('pages')->where('source', 'layer')->count());
    }

    public function test_the_resolution_is_set_by_whoever_brings_it_in_and_makes_another_document(): void
    {
        $file = $this->pdf();
        self::assertSame(0, $this->import($file)['code']);
        self::assertSame(1, $this->import($file)['known']);
        self::assertSame(1, $this->import($file, ['--resolution' => '72'])['taken']);
        $second = Item::query()->orderByDesc('id')->firstOrFail();
        self::assertSame([300, 72], [$second->asset->width, $second->asset->facts['resolution']]);
        // both are drawn from the one file
        $this->api($this->ines, 'get', "{$this->base}/items/{$second->id}/picture?place=1")->assertOk();
        self::assertSame(0, Artisan::call('skeno:backup', ['dir' => $this->temporary().'/backup']), Artisan::output());
        foreach (['12', 'many', '6000'] as $wrong) {
            self::assertSame(2, $this->import($file, ['--resolution' => $wrong])['code']);
        }
    }

    public function test_what_is_no_document_is_refused_by_name_and_reason_and_changes_nothing(): void
    {
        $folder = $this->temporary();
        file_put_contents("{$folder}/empty.pdf", '');
        file_put_contents("{$folder}/lies.pdf", 'a text');
        file_put_contents("{$folder}/broken.pdf", '%PDF-1.4 broken');
        config(['skeno.document.max_pages' => 3]);
        rename($this->pdf(5), "{$folder}/long.pdf");
        $done = $this->import($folder);
        self::assertSame(['broken.pdf', 'empty.pdf', 'lies.pdf', 'long.pdf'], array_column($done['refused'], 'file'));
        self::assertStringContainsString('it has 5 pages; at most 3', $done['refused'][3]['reason']);
        self::assertSame([0, 0], [Item::query()->count(), Asset::query()->count()]);
    }

    public function test_a_tiff_of_several_pages_is_read_in_the_background_and_can_be_stopped_and_gone_on_with(): void
    {
        Queue::fake();
        $scan = Papers::scanned($this->pdf(3), 150);
        $item = $this->document(Papers::tiff($this->temporary().'/scan.tif', $scan));
        self::assertSame(['tiff', 3], [$item->asset->format, $item->places()]);
        $reading = Reading::query()->firstOrFail();
        self::assertSame(['waiting', 3], [$reading->state, $reading->total]);
        Queue::assertPushed(ReadDocument::class);

        // a page that is asked for before is read at once
        $words = $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/words?place=1")->assertOk()->json();
        self::assertSame(['read', 'Weight 212 kg'], [$words['source'], implode(' ', array_column($words['words'], 0))]);
        self::assertGreaterThan(0.5, $words['words'][0][6]);

        $this->api($this->ines, 'post', "{$this->base}/items/{$item->id}/reading/cancel")->assertOk()->assertJsonPath('data.state', 'cancelled')->assertJsonPath('manages', true);
        $this->api($this->mei, 'post', "{$this->base}/items/{$item->id}/reading/cancel")->assertStatus(403);
        (new ReadDocument($reading->id))->handle();
        self::assertSame(1, DB::table('pages')->count());
        $this->api($this->ines, 'post', "{$this->base}/items/{$item->id}/reading/retry")->assertOk()->assertJsonPath('data.state', 'waiting');
        (new ReadDocument($reading->id))->handle();
        self::assertSame(['done', 3], [$reading->refresh()->state, DB::table('pages')->where('source', 'read')->count()]);
        $this->api($this->ines, 'post', "{$this->base}/items/{$item->id}/reading/retry")->assertStatus(409);

        // a reading whose job was lost is found again
        $reading->update(['state' => 'working']);
        Queue::fake();
        app(Resume::class)();
        Queue::assertPushed(ReadDocument::class);
    }

    public function test_a_page_that_can_not_be_read_says_so_and_is_read_once_more_when_asked(): void
    {
        Queue::fake();
        config(['skeno.document.languages' => 'xyz']);
        $item = $this->document(Papers::tiff($this->temporary().'/scan.tif', Papers::scanned($this->pdf(2), 72)));
        $reading = Reading::query()->firstOrFail();
        (new ReadDocument($reading->id))->handle();
        self::assertSame('failed', $reading->refresh()->state);
        self::assertStringContainsString('lacks that language', $reading->error);
        $this->api($this->ines, 'get', "{$this->base}/items/{$item->id}/words?place=0")->assertOk()->assertJsonPath('source', 'failed');
        config(['skeno.document.languages' => 'eng']);
        $this->api($this->ines, 'post', "{$this->base}/items/{$item->id}/reading/retry")->assertOk();
        (new ReadDocument($reading->id))->handle();
        self::assertSame(['done', ''], [$reading->refresh()->state, $reading->error]);
    }

    /** @return list<string> */
    private function pictures(string $folder, int $pages = 3): array
    {
        @mkdir($folder, 0o770, true);
        $files = [];
        foreach (Papers::scanned($this->pdf($pages, 'x.pdf', basename($folder)), 50) as $place => $page) {
            $page->writeImage($files[] = "{$folder}/".(9 + $place).'.png');
        }

        return $files;
    }

    public function test_a_folder_of_pictures_is_a_document_where_one_says_so_and_a_list_says_it_better(): void
    {
        $folder = $this->temporary();
        $this->pictures("{$folder}/bins/17");
        $this->pictures("{$folder}/bins/18", 2);
        copy("{$folder}/bins/17/9.png", "{$folder}/loose.png");
        copy($this->pdf(), "{$folder}/bins/19.pdf");
        Papers::tiff("{$folder}/bins/20.tif", Papers::scanned($this->pdf(2), 40));
        $done = $this->import($folder, ['--bundles' => true]);
        self::assertSame([0, 5], [$done['code'], $done['taken']], (string) json_encode($done));
        self::assertSame(['bins/17' => 3, 'bins/18' => 2, 'bins/19.pdf' => 2, 'bins/20.tif' => 2, 'loose.png' => null], Item::query()->with('asset')->orderBy('path')->get()->mapWithKeys(static fn (Item $item): array => [$item->path => $item->places()])->all());
        // the same once more is known, and another order of the same pages is another document
        self::assertSame(0, $this->import($folder, ['--bundles' => true])['taken']);
        file_put_contents("{$folder}/bins/pages.csv", "document,file\nA,17/11.png\nA,17/9.png\nB,18/9.png\n");
        self::assertSame(2, $this->import("{$folder}/bins", ['--bundles' => true, '--set' => 'again'])['taken']);
        // what the list does not name is not taken for something else, and said
        self::assertStringContainsString('3 pictures are not named', $this->import("{$folder}/bins", ['--bundles' => true, '--set' => 'again'])['refused'][0]['reason']);
        self::assertSame([2, 1], Item::query()->with('asset')->whereIn('path', ['again/A', 'again/B'])->orderBy('path')->get()->map(static fn (Item $item): ?int => $item->places())->all());
        file_put_contents("{$folder}/bins/pages.csv", "document,file\nA,17/nothing.png\n");
        $done = $this->import("{$folder}/bins", ['--bundles' => true, '--set' => 'wrong']);
        self::assertStringContainsString('nothing.png', $done['refused'][0]['reason']);
        self::assertSame(0, Item::query()->where('path', 'like', 'wrong/%')->count());
    }

    public function test_pictures_uploaded_one_by_one_are_put_together_when_all_are_here(): void
    {
        $folder = $this->temporary();
        $files = $this->pictures("{$folder}/17");
        $import = $this->api($this->ines, 'post', "{$this->base}/imports", ['files' => ['bundles' => true, 'resolution' => 96]])->assertStatus(201)->json();
        self::assertSame(['resolution' => 96, 'bundles' => true], $import['options']['files']);
        $at = "{$this->base}/imports/{$import['id']}";
        $made = $this->api($this->ines, 'post', "{$at}/files/many", ['files' => array_map(static fn (string $file): array => ['path' => 'bins/17/'.basename($file), 'bytes' => (int) filesize($file)], $files)])->json('data');
        foreach ($files as $i => $file) {
            $this->api($this->ines, 'put', "{$at}/files/{$made[$i]['id']}?offset=0", (string) file_get_contents($file))->assertOk();
            self::assertSame(0, Item::query()->count());
        }
        $this->api($this->ines, 'post', "{$at}/finish")->assertOk();
        $row = Import::query()->findOrFail($import['id']);
        self::assertSame('done', $row->state);
        $item = Item::query()->firstOrFail();
        self::assertSame(['document', 'bins/17', 3], [$item->kind, $item->path, $item->places()]);
        self::assertSame(['passed' => 3, 'taken' => 1], $row->files()->groupBy('state')->selectRaw('state, count(*) as n')->pluck('n', 'state')->sortKeys()->all());
        self::assertSame([], glob(storage_path('uploads/*')));
        foreach (["document,file\nB,10.png\nB,9.png\n" => ['taken' => 1], "document,page\nB,10.png\n" => ['taken' => 0]] as $list => $counts) {
            $import = $this->api($this->ines, 'post', "{$this->base}/imports", ['files' => ['bundles' => true]])->assertStatus(201)->json('id');
            $at = "{$this->base}/imports/{$import}";
            $sent = ['in/9.png' => (string) file_get_contents($files[0]), 'in/10.png' => (string) file_get_contents($files[1]), 'in/11.png' => (string) file_get_contents($files[2]), 'in/pages.csv' => $list];
            $made = $this->api($this->ines, 'post', "{$at}/files/many", ['files' => array_map(static fn (string $path): array => ['path' => $path, 'bytes' => strlen($sent[$path])], array_keys($sent))])->json('data');
            foreach (array_values($sent) as $i => $bytes) {
                $this->api($this->ines, 'put', "{$at}/files/{$made[$i]['id']}?offset=0", $bytes)->assertOk();
            }
            $this->api($this->ines, 'post', "{$at}/finish")->assertOk();
            $states = Import::query()->findOrFail($import)->files()->pluck('state', 'path')->all();
            self::assertSame($counts['taken'], count(array_keys($states, 'taken', true)), (string) json_encode($states));
            self::assertSame([], array_keys($states, 'received', true));
            // a picture that a list does not name is said at the list
            self::assertSame('refused', $states['in/pages.csv'], (string) json_encode($states));
            self::assertSame([], glob(storage_path('uploads/*')));
        }
        // broken off after its first document, the job goes on with the second: the list still names what is gone by then
        $import = $this->api($this->ines, 'post', "{$this->base}/imports", ['files' => ['bundles' => true]])->assertStatus(201)->json('id');
        $at = "{$this->base}/imports/{$import}";
        $sent = ['on/1.png' => (string) file_get_contents($files[0]), 'on/2.png' => (string) file_get_contents($files[1]), 'on/pages.csv' => "document,file\nfirst,1.png\nsecond,2.png\n"];
        $made = $this->api($this->ines, 'post', "{$at}/files/many", ['files' => array_map(static fn (string $path): array => ['path' => $path, 'bytes' => strlen($sent[$path])], array_keys($sent))])->json('data');
        foreach (array_values($sent) as $i => $bytes) {
            $this->api($this->ines, 'put', "{$at}/files/{$made[$i]['id']}?offset=0", $bytes)->assertOk();
        }
        DB::table('import_files')->where('id', $made[0]['id'])->update(['state' => 'passed', 'reason' => 'of "on/first"']);
        $this->api($this->ines, 'post', "{$at}/finish")->assertOk();
        self::assertSame(['on/1.png' => 'passed', 'on/2.png' => 'passed', 'on/pages.csv' => 'passed', 'on/second' => 'taken'], Import::query()->findOrFail($import)->files()->pluck('state', 'path')->sortKeys()->all());
        self::assertSame([2], Item::query()->with('asset')->where('path', 'in/B')->get()->map(static fn (Item $item): ?int => $item->places())->all());
        $this->api($this->ines, 'post', "{$this->base}/imports", ['files' => ['resolution' => 5]])->assertStatus(422);
        $this->api($this->ines, 'post', "{$this->base}/imports", ['files' => ['bundles' => true], 'labels' => ['format' => 'coco']])->assertStatus(422);
    }

    /** @return array{Item, int, string} an item, a turn of Mei's on it, and the address of its edits */
    private function atWork(): array
    {
        $item = $this->document();
        $this->assign($this->project, $this->ines, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "{$this->base}/next", ['purpose' => 'label', 'holding' => []])->assertOk()->json('packet.turn.id');

        return [$item, (int) $turn, "{$this->base}/turns/{$turn}"];
    }

    private static function id(int $n): string
    {
        return sprintf('01JZ0000000000000000000%03d', $n);
    }

    /** @param  array<string, mixed>  $data */
    private function edit(string $turn, int $n, array $data, string $action = 'create', ?string $mark = '', int $base = 0): array
    {
        return $this->api($this->mei, 'post', "{$turn}/edits", ['edits' => [['id' => self::id($n), 'action' => $action, 'mark' => $mark === '' ? self::id(500 + $n) : $mark, 'base' => $base, 'seconds' => 1, 'data' => $data]]])->assertOk()->json();
    }

    public function test_marks_lie_on_pages_snap_to_words_and_a_page_without_its_answer_stops_the_item(): void
    {
        [$item, $turn, $at] = $this->atWork();
        $box = ['x' => 80, 'y' => 150, 'width' => 320, 'height' => 80];
        $found = $this->api($this->mei, 'post', "{$at}/compute", ['op' => 'words', 'kind' => 'box', 'geometry' => $box, 'n' => 0, 'class' => 'weight', 'place' => 1])->assertOk()->json();
        self::assertSame(['text' => 'Weight 212 kg', 'confidence' => null, 'source' => 'layer', 'reason' => ''], $found['words']);
        // 50 points from the left are 104 px; two px of air
        self::assertEqualsWithDelta(102, $found['geometry']['x'], 2);
        self::assertLessThan(320, $found['geometry']['width']);
        $none = $this->api($this->mei, 'post', "{$at}/compute", ['op' => 'words', 'kind' => 'box', 'geometry' => ['x' => 300, 'y' => 600, 'width' => 50, 'height' => 50], 'n' => 0, 'class' => 'weight', 'place' => 1])->assertOk()->json();
        self::assertSame(['', ['x' => 300, 'y' => 600, 'width' => 50, 'height' => 50]], [$none['words']['text'], $none['geometry']]);

        $mark = ['class' => 'weight', 'kind' => 'box', 'geometry' => $found['geometry'], 'answers' => ['written' => ['value' => 'Weight 212 kg']]];
        self::assertSame('refused', $this->edit($at, 1, $mark)['results'][0]['outcome']);
        self::assertSame('refused', $this->edit($at, 2, $mark + ['place' => 2])['results'][0]['outcome']);
        self::assertSame('refused', $this->edit($at, 3, $mark + ['place' => 0, 'stretches' => [[0, 1]]])['results'][0]['outcome']);
        $kept = $this->edit($at, 4, $mark + ['place' => 1])['results'][0];
        self::assertSame(['applied', 1, null], [$kept['outcome'], $kept['mark']['place'], $kept['mark']['stretches']]);

        $said = ['stretches' => [['question' => 'page_kind', 'first' => 0, 'last' => 0, 'answer' => ['value' => 'front']]]];
        self::assertSame('applied', $this->edit($at, 5, ['kind' => 'item'] + $said, 'create', null)['results'][0]['outcome']);
        $problem = $this->api($this->mei, 'post', "{$at}/submit", ['nothing' => false, 'anyway' => true])->assertStatus(422)->json();
        self::assertStringContainsString('Kind of page is not answered, on page 2', $problem['detail']);
        self::assertSame(1, $problem['findings'][0]['place']);
        $said['stretches'][] = ['question' => 'page_kind', 'first' => 1, 'last' => 1, 'answer' => ['value' => 'lines']];
        self::assertSame('applied', $this->edit($at, 6, ['kind' => 'item'] + $said, 'create', null, 1)['results'][0]['outcome']);
        $this->api($this->mei, 'post', "{$at}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        self::assertSame(1, MarkRow::query()->where('item_id', $item->id)->where('layer', 'agreed')->firstOrFail()->place);

        // the page of the mark is what its square on the contact sheet shows, and pages are swept one by one
        $sheet = $this->api($this->ines, 'get', "{$this->base}/objects")->assertOk()->json('data.0');
        $this->api($this->ines, 'get', "{$this->base}/objects/{$sheet['id']}/crop")->assertOk();
        $pages = $this->api($this->ines, 'get', "{$this->base}/stretches?question=page_kind")->assertOk()->json('data');
        self::assertSame([[0, 'front'], [1, 'lines']], array_map(static fn (array $one): array => [$one['first'], $one['answer']['value']], $pages));
        foreach (['lines' => 1, 'front' => 1, 'open' => 0] as $answer => $count) {
            self::assertCount($count, $this->api($this->ines, 'get', "{$this->base}/items?f[]=".urlencode("answer:page_kind={$answer}"))->assertOk()->json('data'), $answer);
        }
    }

    public function test_a_mask_is_as_large_as_its_page_and_the_core_works_on_that_page(): void
    {
        [, , $at] = $this->atWork();
        $cut = $this->api($this->mei, 'post', "{$at}/compute", ['op' => 'outline', 'kind' => 'box', 'geometry' => ['x' => 100, 'y' => 820, 'width' => 40, 'height' => 40], 'n' => 0, 'class' => 'signature', 'place' => 0]);
        self::assertContains($cut->status(), [200, 422]);
        $runs = fn (int $height): array => ['size' => [$height, 625], 'counts' => [10, 20, $height * 625 - 30]];
        $mask = fn (int $page, int $height): string => $this->edit($at, 20 + $page + ($height % 100), ['class' => 'signature', 'kind' => 'mask', 'geometry' => $runs($height), 'answers' => [], 'place' => $page])['results'][0]['outcome'];
        self::assertSame(['applied', 'refused', 'applied'], [$mask(0, 875), $mask(1, 875), $mask(1, 834)]);
    }

    public function test_a_release_says_the_page_in_every_format_and_labels_come_in_again(): void
    {
        [$item, , $at] = $this->atWork();
        foreach ([0, 1] as $page) {
            $this->edit($at, 40 + $page, ['class' => 'weight', 'kind' => 'box', 'geometry' => ['x' => 100, 'y' => 180 + $page, 'width' => 200, 'height' => 40], 'answers' => ['written' => ['value' => "{$page}12 kg"]], 'place' => $page]);
        }
        $this->edit($at, 45, ['kind' => 'item', 'stretches' => [['question' => 'page_kind', 'first' => 0, 'last' => 1, 'answer' => ['value' => 'front']]]], 'create', null);
        $this->api($this->mei, 'post', "{$at}/submit", ['nothing' => false, 'anyway' => true])->assertOk();
        $out = $this->temporary();
        foreach (['coco' => 'annotations/all.json', 'yolo' => 'labels/all/bins/ticket/0001.txt', 'voc' => 'Annotations/bins/ticket/0001.xml', 'csv' => 'marks.csv', 'jsonl' => 'documents.jsonl', 'skeno' => 'dataset.json'] as $format => $file) {
            self::assertSame(0, Artisan::call('skeno:release', ['project' => (string) $this->project->id, '--out' => "{$out}/{$format}", '--format' => $format, '--states' => 'any']), $format.Artisan::output());
            self::assertFileExists("{$out}/{$format}/{$file}");
        }
        self::assertSame([0, 1], array_column(json_decode((string) file_get_contents("{$out}/coco/annotations/all.json"), true)['images'], 'page_index'));
        self::assertFileExists("{$out}/coco/images/bins/ticket/0001.jpg");
        $line = json_decode((string) file_get_contents("{$out}/jsonl/documents.jsonl"), true);
        self::assertSame([['0 12 kg', 0], ['1 12 kg', 1]], array_map(static fn (array $one): array => [substr_replace($one['text'], ' ', 1, 0), $one['target']['page']], $line['annotations']));

        foreach (['jsonl' => 'jsonl/documents.jsonl', 'skeno' => 'skeno/dataset.json'] as $format => $file) {
            MarkRow::query()->where('item_id', $item->id)->update(['deleted_at' => now()]);
            $done = $this->import($this->pdf(), ['--format' => $format, '--labels' => "{$out}/{$file}"]);
            self::assertSame(2, $done['labels']['objects'], (string) json_encode($done));
            self::assertSame([0, 1], MarkRow::query()->where('item_id', $item->id)->whereNull('deleted_at')->where('layer', 'agreed')->orderBy('place')->pluck('place')->all(), $format);
        }
    }
}
