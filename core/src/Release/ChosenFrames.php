<?php

declare(strict_types=1);

namespace Skeno\Core\Release;

use Closure;
use Skeno\Core\Formats\Dataset;
use Skeno\Core\Formats\DatasetItem;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Marks\Mark;

/**
 * Which frames of clips, and slices of volumes, go into a format of pictures: those where a track has a key, all, every Nth, or some by their numbers (from 0). Each
 * becomes a picture `clip/000017.png` with the marks as they are there, in-betweens worked out.
 */
final readonly class ChosenFrames
{
    /** @param  list<int>  $list */
    private function __construct(private string $how, private int $step, private array $list)
    {
    }

    public static function keys(): self
    {
        return new self('keys', 0, []);
    }

    /**
     * Reads `keys`, `all`, `every:N` or `list:0,5,9`.
     *
     * @throws InvalidValue
     */
    public static function parse(string $word, string $path = 'frames'): self
    {
        if ($word === 'keys' || $word === 'all') {
            return new self($word, 1, []);
        }
        if (preg_match('/^every:([1-9]\d{0,5})$/D', $word, $m) === 1) {
            return new self('every', (int) $m[1], []);
        }
        if (preg_match('/^list:(\d{1,7}(?:,\d{1,7})*)$/D', $word, $m) === 1) {
            $list = array_values(array_unique(array_map(intval(...), explode(',', $m[1]))));
            sort($list);

            return new self('list', 0, $list);
        }
        throw InvalidValue::at($path, $word, 'keys, all, every:N or list:0,5,9');
    }

    public function toWord(): string
    {
        return match ($this->how) {
            'every' => "every:{$this->step}",
            'list' => 'list:'.implode(',', $this->list),
            default => $this->how,
        };
    }

    /** @return list<int> in order */
    public function of(DatasetItem $item, int $places): array
    {
        if ($this->how === 'list') {
            return array_values(array_filter($this->list, static fn (int $frame): bool => $frame < $places));
        }
        if ($this->how !== 'keys') {
            return range(0, $places - 1, $this->step);
        }
        $frames = [];
        foreach ($item->marks as $mark) {
            foreach ($mark->track()->keys as $place => $key) {
                if ($key->geometry !== null) {
                    $frames[$place] = true;
                }
            }
        }
        ksort($frames);

        return array_keys($frames);
    }

    /**
     * The dataset with the chosen frames of each clip in its place; items with neither frames nor slices stay as they are.
     *
     * @param  Closure(DatasetItem, list<int>): (Closure(int): string)  $decode  of a clip or volume and the frames or slices that will be asked for: a file for each
     */
    public function pictures(Dataset $dataset, Closure $decode): Dataset
    {
        $clip = null;
        $files = static fn (int $frame): string => throw InvalidValue::at('frame', $frame, 'a frame of the clip gone through');

        return new Dataset($dataset->name, $dataset->codebook, function () use ($dataset, $decode, &$clip, &$files): iterable {
            foreach ($dataset->items() as $item) {
                $places = $item->places();
                if ($places === null) {
                    yield $item;

                    continue;
                }
                $frames = $this->of($item, $places);
                $clip = $item->path;
                $files = null;
                // decoded only when a picture is asked for, once for all frames of the clip
                $opened = null;
                $files = static function (int $frame) use ($decode, $item, $frames, &$opened): string {
                    $opened ??= $decode($item, $frames);

                    return $opened($frame);
                };
                foreach ($this->marks($item, $frames) as $frame => $marks) {
                    yield self::picture($item, $frame, $marks);
                }
            }
        }, static function (DatasetItem $item) use ($dataset, &$files): string {
            return $item->frame === null ? $dataset->pictureFile($item) : $files($item->frame);
        }, $dataset->clips(...));
    }

    /**
     * @param  list<int>  $frames  in order
     * @return iterable<int, list<Mark>> by frame
     */
    private function marks(DatasetItem $item, array $frames): iterable
    {
        $tracks = array_map(static fn (Mark $mark): array => [$mark, $mark->track()], $item->marks);
        foreach ($frames as $frame) {
            $marks = [];
            foreach ($tracks as [$mark, $track]) {
                $shape = $track->shape($frame);
                if ($shape === null || $shape->isEmpty()) {
                    continue;
                }
                $answers = $mark->answers;
                foreach ($track->questions() as $question) {
                    $answer = $track->answer($question, $frame);
                    if ($answer !== null) {
                        $answers[$question] = $answer;
                    }
                }
                $marks[] = Mark::of($mark->id, $mark->class, $shape, $answers, $mark->stack, $mark->author, $mark->partOf, $track->isHidden($frame) ? [...$mark->flags, \Skeno\Core\Marks\Flag::Hidden] : $mark->flags, $mark->confidence);
            }
            yield $frame => $marks;
        }
    }

    /** @param  list<Mark>  $marks */
    private static function picture(DatasetItem $item, int $frame, array $marks): DatasetItem
    {
        $stem = (string) preg_replace('/(\.nii\.gz|\.[^.\/]+)$/i', '', $item->path);
        // (a clip that was labelled shows nothing where no track is)
        $labelled = $marks !== [] ? Labelled::Objects : ($item->labelled === Labelled::Unlabelled ? Labelled::Unlabelled : Labelled::Nothing);

        return new DatasetItem(sprintf('%s/%06d.png', $stem, $frame), $item->width, $item->height, hash('sha256', "{$item->hash} {$frame}"), $labelled, $marks, $item->part, $item->state, 1, null, null, $frame);
    }
}
