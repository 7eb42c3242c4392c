<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Learn;

use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Skeno\Core\Imaging\Swatch;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Choices;
use Skeno\Core\Learn\Logistic;
use Skeno\Core\Learn\Then;
use Skeno\Core\Quality\Looks;

final class ChoicesTest extends TestCase
{
    private static function looks(int $red, int $green, Randomizer $random): Looks
    {
        $bytes = [];
        for ($i = 0; $i < Swatch::SIDE * Swatch::SIDE; $i++) {
            $noise = $random->getInt(-30, 30);
            foreach ([$red, $green, 40] as $value) {
                $bytes[] = max(0, min(255, $value + $noise));
            }
        }

        return Looks::ofPicture(Swatch::of($bytes));
    }

    /** @return array<string, array{one: bool, answers: list<array{Looks, list<string>}>}> */
    private static function questions(int $seed, int $n = 40): array
    {
        $random = new Randomizer(new Mt19937($seed));
        $ripe = $wet = [];
        for ($i = 0; $i < $n; $i++) {
            $is = ['green', 'turning', 'ripe'][$i % 3];
            $ripe[] = [self::looks(['green' => 60, 'turning' => 150, 'ripe' => 210][$is], ['green' => 170, 'turning' => 140, 'ripe' => 50][$is], $random), [$is]];
            $dark = $i % 2 === 0;
            $wet[] = [self::looks($dark ? 60 : 200, $dark ? 60 : 190, $random), $dark ? ['wet'] : []];
        }

        return ['ripeness' => ['one' => true, 'answers' => $ripe], 'tags' => ['one' => false, 'answers' => $wet]];
    }

    public function test_it_answers_by_looks(): void
    {
        [$choices, $left] = Choices::learn(self::questions(1));
        self::assertSame([[], ['ripeness', 'tags']], [$left, $choices->questions()]);
        foreach ([$choices, Choices::unpack($choices->pack())] as $model) {
            foreach (self::questions(2) as $question => ['answers' => $answers]) {
                foreach ($answers as [$looks, $options]) {
                    $likely = $model->likely($question, $looks);
                    if ($question === 'ripeness') {
                        self::assertSame($options[0], array_key_first($likely));
                        self::assertEqualsWithDelta(1.0, array_sum($likely), 1e-6);
                    } else {
                        self::assertSame($options !== [], $likely['wet'] > 0.5);
                    }
                }
            }
        }
        self::assertTrue($choices->excludes('ripeness'));
        self::assertFalse($choices->excludes('tags'));
        self::assertSame([], $choices->likely('variety', self::questions(3)['tags']['answers'][0][0]));
    }

    public function test_what_it_says_of_a_thing_is_told_by_what_it_was_asked_about(): void
    {
        ['ripeness' => $ripeness, 'tags' => $tags] = self::questions(1);
        [$choices] = Choices::learn([Then::OF_OBJECT.'ripeness' => $ripeness, Then::OF_PICTURE.'tags' => $ripeness, Then::TAGS => $tags]);
        [$looks, $option] = self::questions(2)['ripeness']['answers'][0];
        $object = $choices->told(Then::OF_OBJECT, $looks);
        self::assertSame([[], ['ripeness'], $option[0]], [$object->tags, array_keys($object->answers), $object->answers['ripeness'][0]]);
        $picture = $choices->told(Then::OF_PICTURE, $looks);
        // a question may be called as the tags are
        self::assertSame([['wet'], ['tags']], [array_keys($picture->tags), array_keys($picture->answers)]);
        self::assertSame([['wet'], []], [$choices->options(Then::TAGS), $choices->options('nothing')]);
        self::assertSame(['tags'], Then::aboutPictures($choices->questions()));
    }

    public function test_what_has_too_few_answers_is_left_out_with_the_reason(): void
    {
        $questions = self::questions(1);
        $questions['damage'] = ['one' => true, 'answers' => array_slice($questions['ripeness']['answers'], 0, 7)];
        [$choices, $left] = Choices::learn($questions);
        self::assertSame(['ripeness', 'tags'], $choices->questions());
        self::assertStringContainsString('fewer than two options', $left['damage']);
        $this->expectException(InvalidValue::class);
        Choices::learn(['damage' => $questions['damage']]);
    }

    public function test_shares_of_cases_are_what_a_lone_one_says(): void
    {
        // with nothing but a number that is always 1, the weight is the logarithm of the odds
        $weights = Logistic::fit(array_fill(0, 400, [1.0]), [...array_fill(0, 300, 1), ...array_fill(0, 100, 0)], 1e-9);
        self::assertEqualsWithDelta(log(3), $weights[0], 1e-6);
        self::assertEqualsWithDelta(0.75, Logistic::of($weights, [1.0]), 1e-6);
        // what tells them apart without fail does not run away
        $weights = Logistic::fit([[-1.0, 1.0], [1.0, 1.0]], [0, 1], 1.0);
        self::assertLessThan(5, $weights[0]);
        self::assertGreaterThan(0.5, Logistic::of($weights, [1.0, 1.0]));
    }
}
