<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Marks;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Geometry\Box;
use Skeno\Core\Items\Extent;
use Skeno\Core\Marks\Finding;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\OutOfSight;
use Skeno\Core\Tests\Samples;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Places;

final class OutOfSightTest extends TestCase
{
    private static function codebook(?string $outOfSight): Codebook
    {
        $document = Samples::document();
        foreach ($document['classes'] as &$class) {
            $class += $outOfSight === null ? [] : ['out_of_sight' => $outOfSight];
        }

        return Codebook::fromArray($document);
    }

    /** It moves 10 px a frame; hidden from 3 to 5 and from 9 on. */
    private static function track(): Mark
    {
        $key = static fn (int $place, bool $hidden = false): Key => Key::of($place, Box::of(10.0 * $place, 0, 20, 20), hidden: $hidden);

        return Mark::along(Samples::id(1), 'scab', [$key(0), $key(3, true), $key(6), $key(9, true), $key(12, true)], Places::stretch(0, 12));
    }

    public function test_it_is_kept_hidden_or_absent_as_its_class_has_it(): void
    {
        self::assertSame(self::track()->toArray(), OutOfSight::kept(self::track(), self::codebook(null))->toArray());
        self::assertSame(self::track()->toArray(), OutOfSight::kept(self::track(), self::codebook('hidden'))->toArray());
        $kept = OutOfSight::kept(self::track(), self::codebook('absent'));
        self::assertSame([[0, 2], [6, 8]], $kept->there?->toArray());
        $track = $kept->track();
        for ($place = 0; $place <= 12; $place++) {
            self::assertFalse($track->isHidden($place));
            $isSeen = $place < 3 || ($place >= 6 && $place < 9);
            self::assertEquals($isSeen ? Box::of(10.0 * $place, 0, 20, 20) : null, $track->shape($place), "place {$place}: where it was seen nothing has changed");
        }
        self::assertTrue($kept->there->has((int) $kept->place));
    }

    public function test_what_is_never_seen_stays_and_is_found_by_the_check(): void
    {
        $never = Mark::along(Samples::id(1), 'scab', [Key::of(4, Box::of(0, 0, 20, 20), hidden: true)], Places::stretch(4, 9));
        self::assertSame($never, OutOfSight::kept($never, self::codebook('absent')));
        $found = static fn (string $outOfSight, Mark $mark): array => array_map(static fn (Finding $finding): array => [$finding->code, $finding->place, $finding->stops], (new MarkCheck(self::codebook($outOfSight)))->item([$mark], Extent::plane(400, 100, 20)));
        self::assertSame([['hidden_not_kept', 4, true]], $found('absent', $never));
        self::assertSame([['hidden_not_kept', 3, true]], $found('absent', self::track()), 'at the first of them');
        self::assertSame([], $found('hidden', self::track()));
        self::assertSame([], $found('absent', OutOfSight::kept(self::track(), self::codebook('absent'))));
        $check = new MarkCheck(self::codebook('absent'));
        self::assertSame([true, false], [$check->isFaulty($never->keys[0], $never, Extent::plane(400, 100)), $check->isFaulty(Key::of(4, Box::of(0, 0, 20, 20)), $never, Extent::plane(400, 100))]);
    }

    public function test_it_may_only_be_one_of_the_two(): void
    {
        $this->expectExceptionMessageMatches('/out_of_sight/');
        self::codebook('gone');
    }
}
