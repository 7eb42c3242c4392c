<?php

declare(strict_types=1);

namespace Tests\Architecture;

use PHPUnit\Framework\TestCase;

/** The arrows between the rooms go one way: web → HTTP → app → core; demo → core. */
final class RoomsTest extends TestCase
{
    /** What a room may name of the others; everything else of the house or the framework is an arrow the wrong way. */
    private const FORBIDDEN = [
        'core/src' => ['App\\', 'Skeno\\Demo\\', 'Illuminate\\', 'Laravel\\', 'Symfony\\Component\\Http', 'PDO', '$_SERVER', '$_GET', '$_POST', 'getenv(', 'env(', 'config(', 'app('],
        'core/tests' => ['App\\', 'Skeno\\Demo\\', 'Illuminate\\', 'Laravel\\'],
        'demo/src' => ['App\\', 'Illuminate\\', 'Laravel\\', 'PDO', 'config(', 'app('],
        'app' => ['Skeno\\Core\\Tests\\'],
    ];

    public function test_no_arrow_goes_the_wrong_way(): void
    {
        $wrong = [];
        $files = 0;
        foreach (self::FORBIDDEN as $room => $names) {
            foreach ($this->phpFiles($room) as $file) {
                $files++;
                $code = $this->withoutComments($file);
                foreach ($names as $name) {
                    if (preg_match('/(?<![\w\\\\])\\\\?'.preg_quote($name, '/').'/', $code) === 1) {
                        $wrong[] = "{$file} names {$name}";
                    }
                }
            }
        }
        self::assertGreaterThan(80, $files);
        self::assertSame([], $wrong);
    }

    /** The core takes time and chance as arguments. (Ids of temporary files are not data.) */
    public function test_the_core_asks_neither_clock_nor_chance(): void
    {
        $wrong = [];
        foreach ($this->phpFiles('core/src') as $file) {
            if (preg_match('/(?<![\w>:])(time|microtime|date|rand|mt_rand|random_int|uniqid|lcg_value)\(/', $this->withoutComments($file), $found) === 1) {
                $wrong[] = "{$file} calls {$found[0]})";
            }
        }
        self::assertSame([], $wrong);
    }

    /** The app holds no geometry: the only room that computes with boxes is the core. */
    public function test_the_app_does_no_geometry(): void
    {
        foreach ($this->phpFiles('app') as $file) {
            self::assertStringNotContainsString('Skeno\\Core\\Geometry', (string) file_get_contents($file), $file);
        }
    }

    public function test_the_front_end_reaches_the_server_by_its_client_only(): void
    {
        $root = dirname(__DIR__, 2);
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator("{$root}/web/src", \FilesystemIterator::SKIP_DOTS)) as $file) {
            if (preg_match('/\.(ts|svelte)$/', $file->getPathname()) === 1 && ! str_contains($file->getPathname(), '/lib/api/')) {
                self::assertDoesNotMatchRegularExpression('/(?<![\w.])fetch\(|XMLHttpRequest/', (string) file_get_contents($file->getPathname()), $file->getPathname());
            }
        }
    }

    /** @return list<string> */
    private function phpFiles(string $room): array
    {
        $files = [];
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator(dirname(__DIR__, 2)."/{$room}", \FilesystemIterator::SKIP_DOTS)) as $file) {
            if ($file->getExtension() === 'php' && ! str_contains($file->getPathname(), '/vendor/')) {
                $files[] = $file->getPathname();
            }
        }

        return $files;
    }

    private function withoutComments(string $file): string
    {
        return implode('', array_map(static fn (array|string $token): string => is_string($token) ? $token : (in_array($token[0], [T_COMMENT, T_DOC_COMMENT], true) ? '' : $token[1]), token_get_all((string) file_get_contents($file))));
    }
}
