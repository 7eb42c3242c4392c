<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use Closure;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Attribute;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\LabelClass;
use Skeno\Core\Codebook\NoValue;
use Skeno\Core\Fields;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\LabelReader;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Formats\UnreadableLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Json\ElementStream;
use Skeno\Core\Json\MalformedJson;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\ItemAnswers;
use Skeno\Core\Marks\Mark;

/**
 * Reads COCO detection files in two passes: pictures and categories first, then annotations one by one, wherever they stand in
 * the file. A folder is read as all the .json files under it that have "images". Images may be frames of clips, see CocoTracks.
 */
final class CocoReader implements LabelReader
{
    /** The pictures of a file are kept while it is read; all else goes by. */
    private const MOST_IMAGES = 1_000_000;

    /** Keys under `attributes` that are ours or others' and no answers. */
    private const NOT_ANSWERS = ['no_value', 'stack', 'author', 'ignore', 'flags', 'part_of', 'track_id'];

    private readonly CocoShape $shape;

    /** @param  Closure(): string  $newId */
    public function __construct(private readonly Codebook $codebook, private readonly Closure $newId)
    {
        $this->shape = new CocoShape($codebook);
    }

    public function read(string $path, KnownPictures $pictures): iterable
    {
        if (! is_dir($path)) {
            yield from $this->file($path, basename($path), $pictures);

            return;
        }
        $any = false;
        foreach ((new \Skeno\Core\Formats\Folder($path))->files() as $name) {
            if (str_ends_with(strtolower($name), '.json') && $this->looksLikeCoco("{$path}/{$name}")) {
                $any = true;
                yield from $this->file("{$path}/{$name}", $name, $pictures);
            }
        }
        if (! $any) {
            throw UnreadableLabels::because('there is no COCO file (.json with "images") in the folder');
        }
    }

    private function looksLikeCoco(string $file): bool
    {
        $head = (string) file_get_contents($file, false, null, 0, 1 << 20);

        return str_contains($head, '"images"') || str_contains($head, '"annotations"');
    }

    /** @return iterable<ReadLabels|Skipped|Notice> */
    private function file(string $file, string $name, KnownPictures $pictures): iterable
    {
        try {
            /** @var array<array-key, KnownPicture|string> $images by id: the picture, or why there is none */
            $images = [];
            /** @var array<array-key, LabelClass|string> $classes by category id */
            $classes = [];
            /** @var array<array-key, ?bool> $labelled what the file says, by image id */
            $labelled = [];
            /** @var array<array-key, list<string>> $keypoints names by category id */
            $keypoints = [];
            /** @var array<array-key, ItemAnswers> $said by image id */
            $said = [];
            /** @var array<array-key, int> $frames of images that are frames of a clip */
            $frames = [];
            $tracks = new CocoTracks($this->codebook);
            $part = Part::tryFrom(strtolower(pathinfo($name, PATHINFO_FILENAME)));
            $sawImages = false;
            foreach (ElementStream::ofFile($file, ['images', 'categories']) as [$list, $i, $data]) {
                $sawImages = $sawImages || $list === 'images';
                if ($i === null && $data === []) {
                    continue;
                }
                if ($i === null) {
                    throw UnreadableLabels::because("{$name}: \"{$list}\" is not a list");
                }
                try {
                    $fields = Fields::of($data, "{$list}[{$i}]");
                    $id = $this->id($fields, 'id');
                    if ($list === 'categories') {
                        $word = $fields->string('name', 1000);
                        $classes[$id] = $this->codebook->classNamed($word) ?? "the codebook has no class \"{$word}\"";
                        $keypoints[$id] = $fields->has('keypoints') ? $fields->strings('keypoints') : [];

                        continue;
                    }
                    if (isset($images[$id])) {
                        throw InvalidValue::at("{$list}[{$i}].id", $id, 'an id that no image before it has');
                    }
                    [$images[$id], $frame] = $this->picture($fields, $pictures);
                    if ($frame !== null && $images[$id] instanceof KnownPicture) {
                        $frames[$id] = $frame;
                        $tracks->listed($images[$id], $frame);
                    }
                    if (count($images) > self::MOST_IMAGES) {
                        throw UnreadableLabels::because("{$name} has more than ".self::MOST_IMAGES.' images; bring it in by parts');
                    }
                    $labelled[$id] = is_bool($fields->raw('labelled')) ? $fields->bool('labelled') : null;
                    $notices = [];
                    $about = $this->said($fields, $notices);
                    if (! $about->isEmpty() && $frame !== null) {
                        $notices[] = 'what is said of single frames of clips was left out';
                    } elseif (! $about->isEmpty()) {
                        $said[$id] = $about;
                    }
                    foreach ($notices as $notice) {
                        yield new Notice($notice);
                    }
                } catch (InvalidValue $e) {
                    yield new Skipped($name, "{$list}[{$i}]", $e->getMessage());
                }
            }
            if (! $sawImages) {
                throw UnreadableLabels::because("{$name} is not a COCO file: it has no \"images\"");
            }
            $had = [];
            yield from $this->annotations($file, $name, $images, $frames, $tracks, $classes, $keypoints, $said, $part, $had);
            yield from $tracks->read($part);
            foreach ($images as $id => $picture) {
                if (isset($had[$id]) || isset($frames[$id])) {
                    continue;
                }
                if (is_string($picture)) {
                    yield new Skipped($name, "image id {$id}", $picture);
                } else {
                    $says = $labelled[$id] ?? null;
                    yield new ReadLabels($picture, [], $says === null ? null : ($says ? Labelled::Nothing : Labelled::Unlabelled), $part, $said[$id] ?? null);
                }
            }
        } catch (MalformedJson $e) {
            throw UnreadableLabels::because("{$name}: {$e->getMessage()}");
        }
    }

    /**
     * @param  array<array-key, KnownPicture|string>  $images
     * @param  array<array-key, int>  $frames  of images that are frames of a clip
     * @param  CocoTracks  $tracks  gets what is on those
     * @param  array<array-key, LabelClass|string>  $classes
     * @param  array<array-key, list<string>>  $keypoints
     * @param  array<array-key, ItemAnswers>  $said
     * @param  array<array-key, true>  $had  filled with the ids of images that annotations speak of
     * @return iterable<ReadLabels|Skipped|Notice>
     */
    private function annotations(string $file, string $name, array $images, array $frames, CocoTracks $tracks, array $classes, array $keypoints, array $said, ?Part $part, array &$had): iterable
    {
        $marks = $ids = $wholes = [];
        $of = $about = null;
        foreach (ElementStream::ofFile($file, ['annotations']) as [, $i, $data]) {
            if ($i === null && $data === []) {
                continue;
            }
            if ($i === null) {
                throw UnreadableLabels::because("{$name}: \"annotations\" is not a list");
            }
            $place = "annotations[{$i}]";
            try {
                $fields = Fields::of($data, $place);
                $raw = $fields->raw('id');
                $place .= is_scalar($raw) ? ' (id '.mb_strimwidth((string) $raw, 0, 40, '…').')' : '';
                $image = $this->id($fields, 'image_id');
                $picture = $images[$image] ?? "no image in the file has id {$image}";
                $had[$image] = true;
                $category = $this->id($fields, 'category_id');
                $class = $classes[$category] ?? "no category in the file has id {$category}";
                if (is_string($picture) || is_string($class)) {
                    yield new Skipped($name, $place, is_string($picture) ? $picture : $class);

                    continue;
                }
                $notices = [];
                $mark = $this->mark($fields, $class, $picture, $keypoints[$category] ?? [], $notices);
                foreach ($notices as $notice) {
                    yield new Notice($notice);
                }
                if (isset($frames[$image])) {
                    $tracks->add($picture, $frames[$image], self::trackOf($fields), $mark);

                    continue;
                }
                if ($of !== null && $of->id !== $picture->id) {
                    yield new ReadLabels($of, ReadLabels::linked($marks, $ids, $wholes), null, $part, $about);
                    $marks = $ids = $wholes = [];
                }
                // what is said of an image goes with its first annotation
                $about = $of !== null && $of->id === $picture->id ? $about : ($said[$image] ?? null);
                unset($said[$image]);
                $of = $picture;
                if (count($marks) === ReadLabels::MOST) {
                    yield new Skipped($name, $place, 'there are more than '.ReadLabels::MOST.' objects on its picture');

                    continue;
                }
                $marks[] = $mark;
                if (is_int($raw) || is_string($raw)) {
                    $ids[$raw] = $mark->id;
                }
                $attributes = $fields->raw('attributes');
                if (is_array($attributes) && isset($attributes['part_of']) && (is_int($attributes['part_of']) || is_string($attributes['part_of']))) {
                    $wholes[$mark->id] = $attributes['part_of'];
                }
            } catch (InvalidValue $e) {
                yield new Skipped($name, $place, $e->getMessage());
            }
        }
        if ($of !== null) {
            yield new ReadLabels($of, ReadLabels::linked($marks, $ids, $wholes), null, $part, $about);
        }
    }

    /** @param  list<string>  $notices */
    private function said(Fields $image, array &$notices): ItemAnswers
    {
        $answers = is_array($image->raw('attributes'))
            ? $this->answers($image->object('attributes'), array_map(static fn (Attribute $attribute): string => $attribute->key, $this->codebook->itemAttributes()), 'the item', $notices)
            : [];
        $tags = [];
        foreach (is_array($image->raw('tags')) ? $image->raw('tags') : [] as $tag) {
            if (is_string($tag) && isset($this->codebook->tags[$tag])) {
                $tags[] = $tag;
            } else {
                $notices[] = 'tags the codebook has not were left out';
            }
        }

        return ItemAnswers::of($answers, $tags);
    }

    /** The object of a clip an annotation is of, as the usual names for it say; null: of none. */
    private static function trackOf(Fields $fields): ?string
    {
        $attributes = is_array($fields->raw('attributes')) ? $fields->raw('attributes') : [];
        $track = $fields->raw('track_id') ?? $fields->raw('instance_id') ?? $attributes['track_id'] ?? null;

        return is_int($track) || (is_string($track) && $track !== '' && strlen($track) <= 200) ? (string) $track : null;
    }

    /** @return array{KnownPicture|string, ?int} the picture, or the clip and the frame of it; or why there is none */
    private function picture(Fields $fields, KnownPictures $pictures): array
    {
        $name = $fields->string('file_name', 2000);
        $picture = $pictures->find($name);
        $frame = null;
        if (is_string($picture)) {
            [$picture, $frame] = CocoTracks::frame($name, $pictures) ?? [$picture, null];
        }
        if (is_string($picture)) {
            return [$picture, null];
        }
        foreach (['width' => $picture->width, 'height' => $picture->height] as $side => $true) {
            if ($fields->has($side) && abs($fields->number($side, true) - $true) > 0.5) {
                return ["the file gives \"{$name}\" a {$side} of ".$fields->number($side, true).", but the picture's is {$true}", null];
            }
        }

        return [$picture, $frame];
    }

    /**
     * @param  list<string>  $names  of the category's keypoints
     * @param  list<string>  $notices  filled with what was left out or done otherwise
     */
    private function mark(Fields $fields, LabelClass $class, KnownPicture $picture, array $names, array &$notices): Mark
    {
        $geometry = $this->shape->read($class, $fields, $names, $picture->width, $picture->height, $notices);
        $flags = ($fields->raw('iscrowd') ?? 0) === 1 ? [Flag::Crowd] : [];
        $confidence = self::score($fields, $notices);
        if (! is_array($fields->raw('attributes'))) {
            return Mark::of(($this->newId)(), $class->key, $geometry, flags: $flags, confidence: $confidence);
        }
        $attributes = $fields->object('attributes');
        foreach (is_array($attributes->raw('flags')) ? $attributes->raw('flags') : [] as $word) {
            $flag = is_string($word) ? Flag::tryFrom($word) : null;
            if ($flag !== null) {
                $flags[] = $flag;
            }
        }

        return Mark::of(($this->newId)(), $class->key, $geometry, $this->answers($attributes, $class->attributes, $class->name, $notices), $this->stack($attributes), flags: $flags, confidence: $confidence);
    }

    /**
     * How sure a model was, as in COCO's results format.
     *
     * @param  list<string>  $notices
     */
    private static function score(Fields $fields, array &$notices): ?float
    {
        $score = $fields->raw('score');
        if ($score === null) {
            return null;
        }
        if ((! is_int($score) && ! is_float($score)) || $score < 0 || $score > 1) {
            $notices[] = 'scores that are not between 0 and 1 were left out';

            return null;
        }

        return (float) $score;
    }

    private function stack(Fields $attributes): ?int
    {
        return is_int($attributes->raw('stack')) ? $attributes->int('stack', -1_000_000, 1_000_000) : null;
    }

    /**
     * @param  list<string>  $questions  keys of those that may be answered
     * @param  list<string>  $notices
     * @return array<string, Answer>
     */
    private function answers(Fields $attributes, array $questions, string $whose, array &$notices): array
    {
        $given = [];
        foreach ($attributes->all() as $key => $value) {
            if (! in_array($key, self::NOT_ANSWERS, true)) {
                $given[(string) $key] = ['value' => $value];
            }
        }
        foreach (is_array($attributes->raw('no_value')) ? $attributes->map('no_value') : [] as $key => $word) {
            if (is_string($word) && NoValue::tryFrom($word) !== null) {
                $given[$key] = ['no_value' => $word];
            }
        }
        $answers = [];
        foreach ($given as $key => $data) {
            $attribute = $this->codebook->attributes[$key] ?? null;
            try {
                $answer = Answer::fromArray($data, "attributes.{$key}");
                if ($attribute === null || ! in_array($key, $questions, true)) {
                    $notices[] = "attribute \"{$key}\" is not a question of {$whose}; left out";
                } elseif ($attribute->objection($answer) !== null) {
                    $notices[] = 'an answer was left out: '.$attribute->objection($answer);
                } else {
                    $answers[$key] = $answer;
                }
            } catch (InvalidValue) {
                $notices[] = "attribute \"{$key}\" has a value that is no answer; left out";
            }
        }

        return $answers;
    }

    /** Ids are numbers or text in files as they are found. */
    private function id(Fields $fields, string $key): int|string
    {
        $id = $fields->raw($key);
        if (is_float($id) && floor($id) === $id && abs($id) < 2 ** 53) {
            $id = (int) $id;
        }

        return is_int($id) || (is_string($id) && strlen($id) <= 200) ? $id : throw InvalidValue::at($fields->path($key), $id, 'an id');
    }
}
