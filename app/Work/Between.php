<?php

declare(strict_types=1);

namespace App\Work;

use Skeno\Core\Codebook\Shape;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tracks\InBetweens;
use Skeno\Core\Tracks\Places;

/** What the core works out between two keys, at some of the places between them. */
final class Between
{
    /** Places in one answer. */
    private const MOST = 64;

    /**
     * @param  Fields  $in  `{kind, from: {place, geometry}, to: {place, geometry}, first, last}`
     * @return list<object>
     *
     * @throws InvalidValue
     */
    public static function of(Fields $in): array
    {
        $kind = Shape::tryFrom($in->string('kind', 40)) ?? throw InvalidValue::at('kind', $in->raw('kind'), implode(', ', Shape::flatKinds()));
        [$from, $to] = [$in->object('from'), $in->object('to')];
        $a = $from->int('place', 0, Places::LIMIT);
        $b = $to->int('place', $a + 1, Places::LIMIT);
        $first = $in->int('first', $a, $b);
        $last = $in->int('last', $first, min($b, $first + self::MOST - 1));
        $between = InBetweens::of($kind->flat($from->object('geometry'), 'from.geometry'), $kind->flat($to->object('geometry'), 'to.geometry'));
        $shapes = [];
        for ($place = $first; $place <= $last; $place++) {
            $shapes[] = (object) $between->at(($place - $a) / ($b - $a))->toArray();
        }

        return $shapes;
    }
}
