<?php

declare(strict_types=1);

namespace App\Projects;

use App\Models\HandbookFile;
use App\Models\HandbookVersion;
use App\Models\Project;
use App\Models\User;
use App\Support\Refusal;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Process;
use Illuminate\Support\Facades\Storage;
use RuntimeException;
use Skeno\Core\Handbook\PdfCheck;
use Skeno\Core\Imaging\Picture;
use Skeno\Core\Imaging\PictureFormat;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\Imaging\RefusedPicture;
use Skeno\Core\InvalidValue;

/** The written rules of a project: Markdown in versions with its pictures, or a PDF. */
final class Handbooks
{
    /** What the browser shows by itself. */
    private const PICTURES = [PictureFormat::Png, PictureFormat::Jpeg, PictureFormat::Webp, PictureFormat::Gif];

    private const MOST_PAGES = 500;

    public function latest(Project $project): ?HandbookVersion
    {
        /** @var ?HandbookVersion */
        return HandbookVersion::query()->where('project_id', $project->id)->with('file')->orderByDesc('version')->first();
    }

    public function change(Project $project, string $body, ?int $pdf, int $base, ?User $author): HandbookVersion
    {
        return DB::transaction(function () use ($project, $body, $pdf, $base, $author): HandbookVersion {
            $latest = $this->latest($project);
            if (($latest->version ?? 0) !== $base) {
                throw Refusal::because('handbook_changed', 'somebody has saved the handbook meanwhile; your text is still on this page');
            }
            if ($pdf !== null && HandbookFile::query()->where('project_id', $project->id)->where('type', 'application/pdf')->whereKey($pdf)->doesntExist()) {
                throw InvalidValue::at('pdf', $pdf, 'the id of a PDF of this handbook');
            }
            if ($latest !== null && $latest->body === $body && $latest->file_id === $pdf) {
                return $latest;
            }

            return HandbookVersion::query()->create(['project_id' => $project->id, 'version' => $base + 1, 'body' => $body, 'file_id' => $pdf, 'created_by' => $author?->id])->refresh();
        });
    }

    /**
     * Keeps a picture or a PDF for the handbook.
     *
     * @param  string  $file  on this machine
     * @param  string  $name  as the person knows it
     *
     * @throws Refusal when it is neither, is damaged, or carries more than pages
     */
    public function keep(Project $project, string $file, string $name, ?User $author): HandbookFile
    {
        $name = mb_substr(basename(str_replace('\\', '/', trim($name))), 0, 200);
        $type = (string) file_get_contents($file, false, null, 0, 5) === '%PDF-' ? 'application/pdf' : 'image/'.$this->picture($file, $name)->value;
        if ($type === 'application/pdf') {
            $this->mustOnlyBeRead($file);
        }
        $hash = (string) hash_file('sha256', $file);
        $there = HandbookFile::query()->where('project_id', $project->id)->where('sha256', $hash)->first();
        if ($there !== null) {
            return $there;
        }
        $bytes = fopen($file, 'rb');
        if ($bytes === false) {
            throw new RuntimeException('the file could not be read');
        }
        Storage::disk('handbook')->writeStream(self::path($hash), $bytes);
        fclose($bytes);

        return HandbookFile::query()->create(['project_id' => $project->id, 'created_by' => $author?->id, 'name' => $name === '' ? 'file' : $name, 'type' => $type, 'sha256' => $hash, 'bytes' => (int) filesize($file)])->refresh();
    }

    public function place(HandbookFile $file): string
    {
        return Storage::disk('handbook')->path(self::path($file->sha256));
    }

    private function picture(string $file, string $name): PictureFormat
    {
        try {
            $format = Picture::open($file, $name, new PictureLimits(maxBytes: 15_000_000, maxPixels: 50_000_000))->format;
        } catch (RefusedPicture $e) {
            throw Refusal::because('not_taken', "{$name}: {$e->getMessage()}");
        }

        return in_array($format, self::PICTURES, true) ? $format : throw Refusal::because('not_taken', "{$name} is {$format->value}; a handbook takes PNG, JPEG, WebP and GIF");
    }

    private function mustOnlyBeRead(string $file): void
    {
        // qpdf opens what is compressed and unescapes names, so that nothing hides; it runs nothing
        $json = "{$file}.json";
        try {
            $run = Process::timeout(20)->run(['qpdf', '--json=2', '--json-key=qpdf', '--json-stream-data=none', $file, $json]);
            // 3: warnings about a file that could be read all the same
            if (! in_array($run->exitCode(), [0, 3], true) || ! is_file($json)) {
                throw Refusal::because('not_taken', 'the PDF can\'t be read: it is damaged or needs a password');
            }
            if ((int) filesize($json) > 60_000_000) {
                throw Refusal::because('not_taken', 'the PDF is made of too many parts');
            }
            $document = json_decode((string) file_get_contents($json), true, 500);
            $pages = PdfCheck::pages($document);
            if (! is_array($document) || $pages === 0 || $pages > self::MOST_PAGES) {
                throw Refusal::because('not_taken', "the PDF has {$pages} pages; 1 to ".self::MOST_PAGES.' are taken');
            }
            $carried = PdfCheck::objections($document);
            if ($carried !== []) {
                throw Refusal::because('not_taken', 'the PDF carries '.implode(' and ', $carried).'; a handbook is only read. Print it into a plain PDF and try again');
            }
        } finally {
            @unlink($json);
        }
    }

    private static function path(string $hash): string
    {
        return substr($hash, 0, 2).'/'.$hash;
    }
}
