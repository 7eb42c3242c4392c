<?php

declare(strict_types=1);

namespace Skeno\Core\Formats\Coco;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Part;
use Skeno\Core\Marks\Flag;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\KeySource;
use Skeno\Core\Tracks\Places;

/**
 * Tracks out of a COCO file whose images are frames of clips: `<clip's path without its ending>/000017.png`, counted from 0. Annotations of one
 * `track_id` (or `instance_id`) are one object, those without one each an object of that frame alone. An object is there from one frame the file
 * lists to the next when it is on both; what lies between is worked out.
 */
final class CocoTracks
{
    /** Annotations of clips that are held until the file has been read: the frames of a track may stand anywhere in it. */
    private const MOST = 300_000;

    /** @var array<int, array{clip: KnownPicture, frames: array<int, true>, tracks: array<string, non-empty-array<int, Mark>>}> by item */
    private array $clips = [];

    private int $held = 0;

    public function __construct(private readonly Codebook $codebook)
    {
    }

    /**
     * The clip and frame an image is of.
     *
     * @return ?array{KnownPicture, int} null: it is no frame of a clip there is
     */
    public static function frame(string $name, KnownPictures $pictures): ?array
    {
        $folder = dirname(str_replace('\\', '/', $name));
        $number = pathinfo($name, PATHINFO_FILENAME);
        if ($folder === '.' || preg_match('/^\d{1,8}$/D', $number) !== 1) {
            return null;
        }
        $clip = $pictures->find($folder, true);
        // of two clips of one name the folder has the ending, too
        $clip = is_string($clip) ? $pictures->find($folder) : $clip;

        return is_string($clip) || $clip->places === null || (int) $number >= $clip->places ? null : [$clip, (int) $number];
    }

    /** A frame the file lists, whether anything is on it or not. */
    public function listed(KnownPicture $clip, int $frame): void
    {
        $this->clips[$clip->id] ??= ['clip' => $clip, 'frames' => [], 'tracks' => []];
        $this->clips[$clip->id]['frames'][$frame] = true;
    }

    /**
     * Takes a mark on a frame as a part of its track.
     *
     * @param  ?string  $track  null: it is an object of its own
     *
     * @throws InvalidValue when it can't be
     */
    public function add(KnownPicture $clip, int $frame, ?string $track, Mark $mark): void
    {
        if ($this->held >= self::MOST) {
            throw InvalidValue::at('annotations', 'more than '.self::MOST.' of clips', 'fewer in one file; bring it in by parts');
        }
        $track = $track === null ? "mark {$mark->id}" : "track {$track}";
        $of = $this->clips[$clip->id]['tracks'][$track] ?? [];
        $first = $of === [] ? $mark : $of[array_key_first($of)];
        if (isset($of[$frame])) {
            throw InvalidValue::at('track_id', $track, 'once on each frame; it is on frame '.$frame.' already');
        }
        if ($first->class !== $mark->class || $first->kind !== $mark->kind) {
            throw InvalidValue::at('track_id', $track, 'of one class and shape; it was '.$first->class.' as '.$first->kind->words().' before');
        }
        $this->clips[$clip->id]['tracks'][$track][$frame] = $mark;
        $this->held++;
    }

    /** @return iterable<ReadLabels|Notice> for each clip all of it */
    public function read(?Part $part): iterable
    {
        foreach ($this->clips as $id => ['clip' => $clip, 'frames' => $frames, 'tracks' => $tracks]) {
            ksort($frames);
            $place = array_flip(array_keys($frames));
            $marks = [];
            foreach ($tracks as $on) {
                ksort($on);
                $notices = [];
                $marks[] = $this->track($on, $place, $notices);
                foreach (array_keys($notices) as $notice) {
                    yield new Notice($notice);
                }
                if (count($marks) === ReadLabels::MOST) {
                    yield new ReadLabels($clip, $marks, null, $part);
                    $marks = [];
                }
            }
            unset($this->clips[$id]);
            if ($marks !== [] || $tracks === []) {
                yield new ReadLabels($clip, $marks, $tracks === [] ? Labelled::Nothing : Labelled::Objects, $part);
            }
        }
    }

    /**
     * @param  non-empty-array<int, Mark>  $on  by frame, in order
     * @param  array<int, int>  $place  of each frame the file lists among those
     * @param  array<string, true>  $notices
     */
    private function track(array $on, array $place, array &$notices): Mark
    {
        $first = $on[array_key_first($on)];
        $keys = $stretches = $said = [];
        $before = null;
        foreach ($on as $frame => $mark) {
            $answers = [];
            foreach ($mark->answers as $question => $answer) {
                if (($said[$question] ?? null)?->toArray() === $answer->toArray()) {
                    continue;
                }
                if ($this->codebook->attributes[$question]->varies) {
                    $answers[$question] = $answer;
                } elseif (isset($said[$question])) {
                    $notices['answers that change along a track but may not stay as they were first'] = true;

                    continue;
                }
                $said[$question] = $answer;
            }
            $keys[] = Key::of($frame, $mark->geometry, $answers, $mark->has(Flag::Hidden), $mark->confidence === null ? KeySource::Hand : KeySource::Model, $mark->confidence);
            // on the frame listed before this one it was there, too
            $goesOn = $before !== null && $place[$before] === $place[$frame] - 1;
            $goesOn ? $stretches[count($stretches) - 1][1] = $frame : $stretches[] = [$frame, $frame];
            $before = $frame;
        }
        $constant = array_filter($said, fn (string $question): bool => ! $this->codebook->attributes[$question]->varies, ARRAY_FILTER_USE_KEY);

        return Mark::along($first->id, $first->class, $keys, Places::fromArray(array_values($stretches)), $constant, $first->stack, array_values(array_filter($first->flags, static fn (Flag $flag): bool => $flag !== Flag::Hidden)));
    }
}
