<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Codebook;

use PHPUnit\Framework\TestCase;
use Skeno\Core\Codebook\Shape;
use Skeno\Core\Codebook\Template;

final class TemplateTest extends TestCase
{
    public function test_every_template_is_a_codebook_that_can_be_used_at_once(): void
    {
        $shapes = [];
        foreach (Template::all() as $template) {
            self::assertNotSame('', $template->description);
            self::assertSame($template->codebook->toArray(), Template::named($template->key)?->codebook->toArray());
            foreach ($template->codebook->classes as $class) {
                array_push($shapes, ...array_map(static fn (Shape $shape): string => $shape->value, $class->shapes));
            }
        }
        self::assertEqualsCanonicalizing(['box', 'polygon', 'mask', 'skeleton', 'polyline', 'points', 'turned_box', 'cuboid_2d', 'cuboid'], array_values(array_unique($shapes)));
        self::assertNull(Template::named('../codebook'));
    }
}
