<?php

declare(strict_types=1);

namespace Skeno\Core\Handbook;

/**
 * What a PDF carries beside its pages. A handbook is read, so anything that runs, fetches, sends or brings further files is
 * an objection. It is given the objects of the file as qpdf's JSON (version 2) writes them: compressed object streams opened,
 * names unescaped with their slash, strings marked by a prefix, so that text about scripts is not taken for one.
 */
final class PdfCheck
{
    /** Dictionary keys that carry something else than pages, with what it is (PDF 32000-1, 12.6 and 7.11). */
    private const KEYS = ['/JS' => 'scripts', '/JavaScript' => 'scripts', '/EmbeddedFiles' => 'embedded files', '/EF' => 'embedded files', '/XFA' => 'a form that computes', '/RichMediaContent' => 'embedded media'];

    /** Kinds of action and of object that do something. */
    private const NAMES = [
        '/JavaScript' => 'scripts', '/Launch' => 'commands that start programs', '/SubmitForm' => 'forms that send data', '/ImportData' => 'forms that fetch data', '/GoToE' => 'embedded files', '/GoToR' => 'links to other files',
        '/Rendition' => 'embedded media', '/Movie' => 'embedded media', '/Sound' => 'embedded media', '/RichMedia' => 'embedded media', '/3D' => 'embedded media', '/RichMediaExecute' => 'embedded media', '/EmbeddedFile' => 'embedded files', '/FileAttachment' => 'embedded files',
    ];

    /** Keys whose value says what kind of action or object this is. */
    private const KINDS = ['/S', '/Type', '/Subtype'];

    /**
     * @param  mixed  $document  decoded JSON
     * @return list<string> what it carries, each once; empty for a document that is only read
     */
    public static function objections(mixed $document): array
    {
        $found = [];
        $objects = self::objects($document);
        $open = [$document];
        while ($open !== []) {
            $value = array_pop($open);
            if (! is_array($value)) {
                continue;
            }
            foreach ($value as $key => $entry) {
                if (is_string($key) && $entry !== null && isset(self::KEYS[$key])) {
                    $found[self::KEYS[$key]] = true;
                }
                // a name may stand in an object of its own, and be pointed at
                $kind = in_array($key, self::KINDS, true) ? self::value($entry, $objects) : null;
                if (is_string($kind) && isset(self::NAMES[$kind])) {
                    $found[self::NAMES[$kind]] = true;
                }
                $open[] = $entry;
            }
        }
        $found = array_keys($found);
        sort($found);

        return $found;
    }

    /**
     * The objects of the file by how they are pointed at, such as `7 0 R`.
     *
     * @return array<string, mixed>
     */
    private static function objects(mixed $document): array
    {
        $objects = [];
        $qpdf = is_array($document) && is_array($document['qpdf'] ?? null) ? $document['qpdf'] : [];
        foreach ($qpdf as $part) {
            foreach (is_array($part) ? $part : [] as $name => $object) {
                if (is_string($name) && str_starts_with($name, 'obj:')) {
                    $objects[substr($name, 4)] = is_array($object) && array_key_exists('value', $object) ? $object['value'] : $object;
                }
            }
        }

        return $objects;
    }

    /**
     * What stands at a place, also over several steps of pointing.
     *
     * @param  array<string, mixed>  $objects
     */
    private static function value(mixed $entry, array $objects): mixed
    {
        for ($steps = 0; $steps < 20 && is_string($entry) && isset($objects[$entry]); $steps++) {
            $entry = $objects[$entry];
        }

        return $entry;
    }

    /** @return int pages of the document, 0 when it names none */
    public static function pages(mixed $document): int
    {
        $pages = 0;
        $objects = self::objects($document);
        $open = [$document];
        while ($open !== []) {
            $value = array_pop($open);
            if (is_array($value)) {
                $pages += self::value($value['/Type'] ?? null, $objects) === '/Page' ? 1 : 0;
                array_push($open, ...array_values($value));
            }
        }

        return $pages;
    }
}
