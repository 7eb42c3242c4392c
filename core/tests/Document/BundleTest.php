<?php

declare(strict_types=1);

namespace Skeno\Core\Tests\Document;

use Imagick;
use PHPUnit\Framework\TestCase;
use Skeno\Core\Document\Bundle;
use Skeno\Core\Document\DocumentLimits;
use Skeno\Core\Document\PageGroups;
use Skeno\Core\Document\RefusedDocument;
use Skeno\Core\Imaging\PictureLimits;
use Skeno\Core\InvalidValue;
use Skeno\Core\Tests\Samples;

/** Pictures that are the pages of a document. */
final class BundleTest extends TestCase
{
    private static function page(string $file, int $width, int $height, string $colour, string $format = 'png'): string
    {
        $image = new Imagick;
        $image->newImage($width, $height, $colour);
        $image->setImageFormat($format);
        $image->writeImage($file);

        return $file;
    }

    public function test_page_pictures_become_one_file_and_are_drawn_from_it(): void
    {
        $folder = Samples::temporaryFolder();
        $pages = [self::page("{$folder}/a.png", 60, 80, '#ff0000'), self::page("{$folder}/b.jpg", 90, 40, '#0000ff', 'jpeg')];
        Bundle::make($pages, "{$folder}/one.pages");
        touch($pages[0], 1);
        Bundle::make($pages, "{$folder}/two.pages");
        self::assertSame(hash_file('sha256', "{$folder}/one.pages"), hash_file('sha256', "{$folder}/two.pages"), 'the same pages are the same file');
        $bundle = Bundle::open("{$folder}/one.pages", new DocumentLimits, new PictureLimits(1_000_000, 1_000_000), $folder);
        self::assertSame([[60, 80, 1], [90, 40, 1]], $bundle->sheets->toArray());
        Bundle::draw("{$folder}/one.pages", 1, "{$folder}/p.jpg", new DocumentLimits, new PictureLimits(1_000_000, 1_000_000), $folder);
        $drawn = new Imagick("{$folder}/p.jpg");
        self::assertSame([90, 40], [$drawn->getImageWidth(), $drawn->getImageHeight()]);
        self::assertGreaterThan(200, $drawn->getImagePixelColor(40, 20)->getColor()['b']);
        self::assertSame([], glob("{$folder}/page-*"));
    }

    public function test_what_is_no_page_is_refused_by_its_number(): void
    {
        $folder = Samples::temporaryFolder();
        file_put_contents("{$folder}/no.png", 'not a picture');
        $png = self::page("{$folder}/a.png", 60, 80, '#ff0000');
        file_put_contents("{$folder}/cut.png", substr((string) file_get_contents($png), 0, 60));
        $said = static function (\Closure $act): string {
            try {
                $act();
            } catch (RefusedDocument $e) {
                return $e->getMessage();
            }

            return '';
        };
        $limits = new DocumentLimits(maxPages: 2);
        $pictures = new PictureLimits(1_000_000, 1_000_000);
        self::assertStringContainsString('page 2 is no picture', $said(static fn () => Bundle::make([$png, "{$folder}/no.png"], "{$folder}/no.pages")));
        Bundle::make([$png, "{$folder}/cut.png"], "{$folder}/cut.pages");
        self::assertStringContainsString('page 2: the png file is damaged', $said(static fn () => Bundle::open("{$folder}/cut.pages", $limits, $pictures, $folder)));
        Bundle::make([$png, $png, $png], "{$folder}/many.pages");
        self::assertStringContainsString('3 entries; at most 2', $said(static fn () => Bundle::open("{$folder}/many.pages", $limits, $pictures, $folder)));
        self::assertStringContainsString('not a readable zip', $said(static fn () => Bundle::open("{$folder}/no.png", $limits, $pictures, $folder)));
        self::assertStringContainsString('no page 8', $said(static fn () => Bundle::draw("{$folder}/cut.pages", 7, "{$folder}/p.jpg", $limits, $pictures, $folder)));
    }

    public function test_folders_are_documents_whose_pages_are_counted_as_one_counts(): void
    {
        self::assertSame(
            ['bins/17' => ['bins/17/1.png', 'bins/17/2.png', 'bins/17/10.png'], 'bins/18' => ['bins/18/a.jpg']],
            PageGroups::byFolder(['bins/18/a.jpg', 'bins/17/10.png', 'bins/17/2.png', 'bins/17/1.png', 'bins/17/notes.txt', 'loose.png', 'bins/19.pdf']),
        );
    }

    public function test_a_list_says_which_pages_a_document_has(): void
    {
        $list = Samples::temporaryFolder().'/pages.csv';
        $all = ['in/b.png', 'in/a.png', 'in/c.png'];
        $read = static function (string $csv, string $folder = 'in') use ($list, $all): array|string {
            file_put_contents($list, $csv);
            try {
                return PageGroups::byList($list, $folder, $all);
            } catch (InvalidValue $e) {
                return $e->getMessage();
            }
        };
        self::assertSame(['in/17' => ['in/b.png', 'in/a.png'], 'in/18' => ['in/c.png']], $read("\u{FEFF}Document,note,file\n17,x,b.png\n18,,c.png\n\n17,y,a.png\n"));
        self::assertStringContainsString('columns document and file', (string) json_encode($read("a,b\n1,2\n")));
        self::assertStringContainsString('line 2', (string) json_encode($read("document,file\n17,d.png\n")));
        self::assertStringContainsString('each file once', (string) json_encode($read("document,file\n17,a.png\n18,a.png\n")));
        self::assertStringContainsString('line 2', (string) json_encode($read("document,file\n17,../../etc/passwd\n")));
        self::assertStringContainsString('columns', (string) json_encode($read('')));
    }
}
