<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Voc;

use Closure;
use DOMDocument;
use DOMElement;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Fields;
use Skeno\Core\Formats\Fit;
use Skeno\Core\Formats\Folder;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Imaging\IndexImage;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;

/** Reads a VOC XML or a folder of them. A document type (and with it any entity) is refused before it is parsed. */
final class VocReader implements LabelReader
{
    private const MAX_BYTES = 16 << 20;

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        $folder = new Folder(is_dir($path) ? $path : dirname($path));
        $files = is_dir($path) ? array_values(array_filter($folder->files(), static fn (string $file): bool => str_ends_with(strtolower($file), '.xml'))) : [basename($path)];
        if ($files === []) {
            throw UnreadableLabels::because('there is no VOC file (.xml) in the folder');
        }
        $parts = $this->parts($folder);
        foreach ($files as $file) {
            yield from $this->file($folder, $file, $pictures, $parts);
        }
    }

    /**
     * @param  array<string, Part>  $parts
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function file(Folder $folder, string $file, KnownPictures $pictures, array $parts): iterable
    {
        $xml = @file_get_contents($folder->file($file), false, null, 0, self::MAX_BYTES + 1);
        if ($xml === false || strlen($xml) > self::MAX_BYTES) {
            yield new Skipped($file, 'file', $xml === false ? 'it can\'t be read' : 'it is larger than '.(self::MAX_BYTES >> 20).' MB');

            return;
        }
        // the encoding may hide the word from a plain search, so it is looked for after parsing too
        if (stripos(str_replace("\0", '', $xml), '<!DOCTYPE') !== false || stripos(str_replace("\0", '', $xml), '<!ENTITY') !== false) {
            yield new Skipped($file, 'file', 'it declares a document type or entities, which is not taken');

            return;
        }
        $document = new DOMDocument;
        $before = libxml_use_internal_errors(true);
        $loaded = $document->loadXML($xml, LIBXML_NONET | LIBXML_COMPACT);
        $error = libxml_get_last_error();
        libxml_clear_errors();
        libxml_use_internal_errors($before);
        if (! $loaded || $document->doctype !== null) {
            yield new Skipped($file, 'file', 'it is not XML: '.($error === false ? 'unreadable' : trim($error->message)." (line {$error->line})"));

            return;
        }
        $root = $document->documentElement;
        if ($root === null || $root->localName !== 'annotation') {
            yield new Skipped($file, 'file', 'it is not a VOC annotation (the outer element is not "annotation")');

            return;
        }
        $picture = $this->picture($root, $file, $pictures);
        $objects = iterator_to_array($this->children($root, 'object'), false);
        if (is_string($picture)) {
            yield new Skipped($file, 'file', $picture);
            foreach (array_keys($objects) as $i) {
                yield new Skipped($file, 'object '.($i + 1), $picture);
            }

            return;
        }
        $marks = $pixels = [];
        $stem = (string) preg_replace(['/^(.*\/)?Annotations\//', '/\.xml$/i'], '', $file);
        // beside Annotations/, wherever that stands
        $beside = (string) preg_replace('/Annotations\/.*$/', '', $file)."SegmentationObject/{$stem}.png";
        if ($folder->has($beside)) {
            try {
                $pixels = IndexImage::read($folder->file($beside), $picture->width, $picture->height)->masks();
            } catch (InvalidValue $e) {
                yield new Skipped($beside, 'file', $e->getMessage());
            }
        }
        foreach ($objects as $i => $object) {
            $word = $this->text($object, 'name') ?? '';
            $class = $this->codebook->classNamed($word);
            if ($class === null) {
                yield new Skipped($file, 'object '.($i + 1), "the codebook has no class \"{$word}\"");

                continue;
            }
            $flags = [];
            foreach (['truncated' => Flag::CutOff, 'occluded' => Flag::Hidden, 'difficult' => Flag::Hard] as $name => $flag) {
                if ((int) ($this->text($object, $name) ?? '0') === 1 && ! ($class->ignore && $flag === Flag::Hard)) {
                    $flags[] = $flag;
                }
            }
            try {
                [$geometry, $notice] = Fit::into($class, $pixels[$i + 1] ?? $this->box($object), $picture->width, $picture->height);
                if ($notice !== null) {
                    yield new Notice($notice);
                }
                $marks[] = Mark::of(($this->newId)(), $class->key, $geometry, flags: $flags);
            } catch (InvalidValue $e) {
                yield new Skipped($file, 'object '.($i + 1), $e->getMessage());
            }
        }
        if ($marks !== [] || $objects === []) {
            yield new ReadLabels($picture, $marks, null, $parts[$stem] ?? null);
        }
    }

    private function picture(DOMElement $root, string $file, KnownPictures $pictures): KnownPicture|string
    {
        $name = trim($this->text($root, 'filename') ?? '');
        $folder = trim($this->text($root, 'folder') ?? '');
        $own = preg_replace('/\.xml$/i', '', $file) ?? $file;
        $picture = $name !== '' ? $pictures->find(($folder !== '' ? "{$folder}/" : '').$name) : $pictures->find($own, true);
        // a folder name written by another program may mean nothing here
        if (is_string($picture) && $name !== '') {
            $bySet = $pictures->find($own, true);
            $picture = is_string($bySet) ? (is_string($found = $pictures->find($name)) ? $picture : $found) : $bySet;
        }
        if (is_string($picture)) {
            return $picture;
        }
        foreach ($this->children($root, 'size') as $size) {
            foreach (['width' => $picture->width, 'height' => $picture->height] as $side => $true) {
                $said = $this->text($size, $side);
                if ($said !== null && is_numeric($said) && (float) $said > 0 && abs((float) $said - $true) > 0.5) {
                    return "the file gives the picture a {$side} of {$said}, but it is {$true}";
                }
            }
        }

        return $picture;
    }

    private function box(DOMElement $object): Box
    {
        foreach ($this->children($object, 'bndbox') as $bndbox) {
            $corner = fn (string $name): float => Fields::of([$name => $this->text($bndbox, $name)], 'bndbox')->number($name, true);
            [$xmin, $ymin, $xmax, $ymax] = [$corner('xmin'), $corner('ymin'), $corner('xmax'), $corner('ymax')];
            if ($xmax < $xmin || $ymax < $ymin) {
                throw InvalidValue::at('bndbox', "{$xmin} {$ymin} {$xmax} {$ymax}", 'xmin ≤ xmax and ymin ≤ ymax');
            }

            return Box::of($xmin - 1, $ymin - 1, $xmax - $xmin + 1, $ymax - $ymin + 1, 'bndbox');
        }
        throw InvalidValue::at('bndbox', null, 'a bounding box');
    }

    /** @return array<string, Part> part by the name in ImageSets/Main */
    private function parts(Folder $folder): array
    {
        $parts = [];
        foreach (Part::cases() as $part) {
            if ($folder->has("ImageSets/Main/{$part->value}.txt")) {
                foreach (preg_split('/\R/', $folder->read("ImageSets/Main/{$part->value}.txt")) ?: [] as $line) {
                    $parts[trim($line)] = $part;
                }
            }
        }

        return $parts;
    }

    /** @return iterable<DOMElement> */
    private function children(DOMElement $element, string $name): iterable
    {
        foreach ($element->childNodes as $child) {
            if ($child instanceof DOMElement && $child->localName === $name) {
                yield $child;
            }
        }
    }

    private function text(DOMElement $element, string $name): ?string
    {
        foreach ($this->children($element, $name) as $child) {
            return trim($child->textContent);
        }

        return null;
    }
}
