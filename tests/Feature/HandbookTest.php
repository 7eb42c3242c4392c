<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Models\HandbookFile;
use App\Models\Project;
use App\Models\User;
use Illuminate\Support\Facades\Process;
use Illuminate\Support\Facades\Storage;
use PHPUnit\Framework\Attributes\DataProvider;
use Skeno\Core\People\Role;
use Tests\TestCase;

final class HandbookTest extends TestCase
{
    private Project $project;

    private User $manager;

    private User $mei;

    protected function setUp(): void
    {
        parent::setUp();
        $this->project = $this->project('Canopy');
        [$this->manager, $this->mei] = [$this->member($this->project, Role::Manager), $this->member($this->project, Role::Labeller)];
    }

    /** A PDF of one page, with more objects where wanted. */
    public static function pdf(string $catalog = '', string $more = ''): string
    {
        $stream = "BT /F1 24 Tf 60 700 Td (Apple) Tj ET\n";
        $objects = ["<< /Type /Catalog /Pages 2 0 R {$catalog} >>", '<< /Type /Pages /Kids [3 0 R] /Count 1 >>', '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> >> >> >>', '<< /Length '.strlen($stream)." >>\nstream\n{$stream}endstream", ...($more === '' ? [] : [$more])];
        $pdf = "%PDF-1.7\n";
        $places = [];
        foreach ($objects as $i => $object) {
            $places[] = strlen($pdf);
            $pdf .= ($i + 1)." 0 obj\n{$object}\nendobj\n";
        }
        $start = strlen($pdf);
        $pdf .= 'xref'."\n0 ".(count($objects) + 1)."\n0000000000 65535 f \n".implode('', array_map(static fn (int $at): string => sprintf("%010d 00000 n \n", $at), $places));

        return $pdf.'trailer << /Root 1 0 R /Size '.(count($objects) + 1)." >>\nstartxref\n{$start}\n%%EOF\n";
    }

    private function upload(string $bytes, string $name, ?User $as = null): \Illuminate\Testing\TestResponse
    {
        return $this->api($as ?? $this->manager, 'post', "/projects/{$this->project->id}/handbook/files?name=".rawurlencode($name), $bytes);
    }

    public function test_pictures_are_kept_once_and_shown_to_who_works_in_the_project(): void
    {
        $bytes = (string) file_get_contents($this->picture(40, 30, 'leaf'));
        $file = $this->upload($bytes, 'leaf.png')->assertStatus(201)->assertJson(['type' => 'image/png', 'name' => 'leaf.png'])->json();
        self::assertSame($file['id'], $this->upload($bytes, 'again.png')->json('id'));
        $this->api($this->manager, 'put', "/projects/{$this->project->id}/handbook", ['base' => 0, 'body' => "# Leaf\n![a leaf]({$file['url']})", 'pdf' => null])->assertOk()->assertJson(['version' => 1, 'pdf' => null]);
        $path = substr((string) $file['url'], strlen('/api/v1'));
        self::assertSame('image/png', $this->api($this->mei, 'get', $path)->assertOk()->headers->get('Content-Type'));
        $this->api($this->person('Stranger'), 'get', $path)->assertNotFound();
        $other = $this->project('Other');
        $this->api($this->member($other, Role::Manager), 'get', "/projects/{$other->id}/handbook/files/{$file['id']}")->assertNotFound();
    }

    public function test_a_pdf_is_the_handbook_and_can_be_left_again(): void
    {
        $file = $this->upload(self::pdf(), 'rules.pdf')->assertStatus(201)->assertJson(['type' => 'application/pdf'])->json();
        $this->api($this->manager, 'put', "/projects/{$this->project->id}/handbook", ['base' => 0, 'body' => '', 'pdf' => $file['id']])->assertJsonPath('pdf.name', 'rules.pdf');
        $this->api($this->mei, 'get', "/projects/{$this->project->id}/handbook")->assertJsonPath('pdf.id', $file['id']);
        $this->api($this->manager, 'put', "/projects/{$this->project->id}/handbook", ['base' => 1, 'body' => '# Apples', 'pdf' => null])->assertJsonPath('pdf', null)->assertJsonPath('version', 2);
        $picture = $this->upload((string) file_get_contents($this->picture(10, 10, 'x')), 'x.png')->json('id');
        foreach ([$picture, 999] as $wrong) {
            $this->api($this->manager, 'put', "/projects/{$this->project->id}/handbook", ['base' => 2, 'body' => '', 'pdf' => $wrong])->assertStatus(422)->assertJson(['field' => 'pdf']);
        }
    }

    /** @return iterable<string, array{callable(): string, string, string}> */
    public static function hostile(): iterable
    {
        $script = '<< /S /JavaScript /JS (app.alert\(1\)) >>';
        yield 'a script when it opens' => [static fn (): string => self::pdf("/OpenAction {$script}"), 'rules.pdf', 'scripts'];
        yield 'a script with its name escaped' => [static fn (): string => self::pdf('/OpenAction << /S /Java#53cript /J#53 (app.alert\(1\)) >>'), 'rules.pdf', 'scripts'];
        yield 'a script inside a compressed object' => [static fn (): string => self::packed(self::pdf('/OpenAction 5 0 R', $script)), 'rules.pdf', 'scripts'];
        yield 'a program' => [static fn (): string => self::pdf('/OpenAction << /S /Launch /F (rm) >>'), 'rules.pdf', 'start programs'];
        yield 'a file inside' => [static fn (): string => self::pdf('/Names << /EmbeddedFiles << /Names [(a) 5 0 R] >> >>', '<< /Type /Filespec /F (a.exe) >>'), 'rules.pdf', 'embedded files'];
        yield 'cut off' => [static fn (): string => substr(self::pdf(), 0, 60), 'rules.pdf', 'damaged'];
        yield 'no page' => [static fn (): string => str_replace('/Type /Page ', '/Type /Pig ', self::pdf()), 'rules.pdf', 'pages'];
        yield 'a drawing with a script' => [static fn (): string => '<svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>', 'leaf.svg', 'picture'];
        yield 'a page by another name' => [static fn (): string => '<html><script>alert(1)</script>', 'leaf.png', 'not a picture'];
        yield 'nothing' => [static fn (): string => '', 'leaf.png', 'empty'];
    }

    private static function packed(string $pdf): string
    {
        $file = tempnam(sys_get_temp_dir(), 'pdf');
        file_put_contents($file, $pdf);
        exec('qpdf --object-streams=generate '.escapeshellarg($file).' '.escapeshellarg("{$file}.out"), $lines, $code);
        $bytes = (string) file_get_contents("{$file}.out");
        array_map(unlink(...), [$file, "{$file}.out"]);
        self::assertSame([0, false], [$code, str_contains($bytes, 'JavaScript')]);

        return $bytes;
    }

    /** @param  callable(): string  $bytes */
    #[DataProvider('hostile')]
    public function test_what_is_more_than_read_is_refused_by_name_and_nothing_is_stored(callable $bytes, string $name, string $expected): void
    {
        $before = Storage::disk('handbook')->allFiles();
        $this->upload($bytes(), $name)->assertStatus(422)->assertJson(['code' => 'not_taken']);
        self::assertStringContainsString($expected, (string) $this->upload($bytes(), $name)->json('detail'));
        self::assertSame([0, $before], [HandbookFile::query()->count(), Storage::disk('handbook')->allFiles()]);
        self::assertSame([], glob(storage_path('tmp/handbook-*')));
    }

    public function test_a_reader_that_hangs_refuses(): void
    {
        Process::fake(['*' => Process::result(exitCode: 2)]);
        $this->upload(self::pdf(), 'rules.pdf')->assertStatus(422);
    }

    public function test_a_class_is_proposed_at_the_bench_and_answered(): void
    {
        $this->items($this->project, 1);
        $this->assign($this->project, $this->manager, $this->mei, null);
        $turn = $this->api($this->mei, 'post', "/projects/{$this->project->id}/next", [])->json('packet.turn.id');
        $path = "/projects/{$this->project->id}/proposals";
        $id = $this->api($this->mei, 'post', $path, ['kind' => 'class', 'name' => 'Mildew', 'text' => 'white film on leaves', 'turn' => $turn])->assertStatus(201)->assertJson(['state' => 'open', 'by' => $this->mei->name])->assertJsonPath('item.name', 'p00.png')->json('id');
        $this->api($this->mei, 'post', $path, ['kind' => 'rule', 'text' => 'Leaves on the ground are left out.'])->assertStatus(201)->assertJsonPath('item', null);
        foreach ([['kind' => 'class', 'text' => 'no name'], ['kind' => 'rule', 'text' => ' '], ['kind' => 'wish', 'text' => 'x'], ['kind' => 'rule', 'text' => 'x', 'turn' => 999]] as $bad) {
            $this->api($this->mei, 'post', $path, $bad)->assertStatus(422);
        }
        $ravi = $this->member($this->project, Role::Labeller);
        $this->api($ravi, 'post', $path, ['kind' => 'rule', 'text' => 'x', 'turn' => $turn])->assertStatus(422);
        $this->api($ravi, 'get', $path)->assertJsonPath('data', []);
        $this->api($this->manager, 'get', $path)->assertJsonCount(2, 'data');
        $this->api($this->manager, 'get', '/projects')->assertJsonPath('data.0.proposals', 2);
        $this->api($this->mei, 'patch', "{$path}/{$id}", ['state' => 'taken'])->assertForbidden();
        $this->api($this->manager, 'patch', "{$path}/{$id}", ['state' => 'later'])->assertStatus(422);
        $this->api($this->manager, 'patch', "{$path}/{$id}", ['state' => 'taken', 'answer' => 'It is there now.'])->assertJson(['answered_by' => $this->manager->name]);
        $this->api($this->mei, 'get', '/work')->assertJsonPath('answers.0.proposal.answer', 'It is there now.')->assertJsonPath('answers.0.project', 'Canopy');
    }
}
