<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Models\HandbookFile;
use App\Models\HandbookVersion;
use App\Projects\Handbooks;
use App\Support\Refusal;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\File;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** The written rules, their pictures, and a handbook that is a PDF. */
final class HandbookController
{
    private const MOST_BYTES = 15_000_000;

    public function __construct(private readonly Handbooks $handbooks)
    {
    }

    public function show(Request $request): JsonResponse
    {
        return new JsonResponse(self::shape($this->handbooks->latest(Input::project($request))));
    }

    public function save(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $row = $this->handbooks->change(Input::project($request), $in->string('body', 500_000), $in->optionalInt('pdf', 1), $in->int('base', 0), Input::actor($request)->user);

        return new JsonResponse(self::shape($row->load('file')));
    }

    /** A picture or a PDF as the raw body. */
    public function upload(Request $request): JsonResponse
    {
        $name = $request->query('name');
        $bytes = $request->getContent();
        if (strlen($bytes) === 0 || strlen($bytes) > self::MOST_BYTES) {
            throw Refusal::because('not_taken', strlen($bytes) === 0 ? 'the file is empty' : 'the file has more than 15 MB');
        }
        $folder = storage_path('tmp');
        File::ensureDirectoryExists($folder, 0o770);
        $file = $folder.'/handbook-'.bin2hex(random_bytes(8));
        try {
            File::put($file, $bytes);
            $kept = $this->handbooks->keep(Input::project($request), $file, is_string($name) ? $name : '', Input::actor($request)->user);
        } finally {
            File::delete($file);
        }

        return new JsonResponse($kept->shape(), 201);
    }

    public function file(Request $request): BinaryFileResponse
    {
        $file = HandbookFile::query()->where('project_id', Input::project($request)->id)->findOrFail(Input::id($request, 'file'));
        $response = new BinaryFileResponse($this->handbooks->place($file), 200, ['Content-Type' => $file->type, 'Cache-Control' => 'private, max-age=31536000, immutable']);
        $response->setEtag($file->sha256);
        $response->isNotModified($request);

        return $response;
    }

    /** @return array<string, mixed> */
    private static function shape(?HandbookVersion $row): array
    {
        return ['version' => $row->version ?? 0, 'body' => $row->body ?? '', 'pdf' => $row?->file?->shape()];
    }
}
