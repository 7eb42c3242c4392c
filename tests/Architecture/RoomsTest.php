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

    /** Modules are folders of a room; along their arrows one never comes back to where one began. */
    public function test_no_two_modules_point_at_each_other(): void
    {
        foreach (['app' => 'App', 'core/src' => 'Skeno\\Core'] as $room => $namespace) {
            $arrows = $this->arrows($room, $namespace);
            self::assertGreaterThan(10, count($arrows), $room);
            do {
                // a module whose arrows all lead to modules that are done is done itself
                $ends = array_keys(array_filter($arrows, static fn (array $to): bool => array_intersect_key($to, $arrows) === []));
                $arrows = array_diff_key($arrows, array_flip($ends));
            } while ($ends !== []);
            self::assertSame([], array_map(static fn (array $to): array => array_intersect_key($to, $arrows), $arrows), "{$room}: modules in a circle, with a file for each arrow");
        }
    }

    /** What the house does knows nothing of how it is asked: only Http, the console and the providers stand at the door. */
    public function test_no_domain_class_knows_http(): void
    {
        $wrong = [];
        foreach ($this->phpFiles('app') as $file) {
            if (preg_match('#/app/(Http|Console|Providers)/#', $file) === 1) {
                continue;
            }
            foreach (['App\\Http', 'Illuminate\\Http', 'Symfony\\Component\\HttpFoundation', 'Symfony\\Component\\HttpKernel', 'abort(', 'abort_if(', 'abort_unless(', 'request('] as $name) {
                if (preg_match('/(?<![\w\\\\>:])\\\\?'.preg_quote($name, '/').'/', $this->withoutComments($file)) === 1) {
                    $wrong[] = "{$file} names {$name}";
                }
            }
        }
        self::assertSame([], $wrong);
    }

    /** @return array<string, array<string, string>> for each module those it names, with a file that does */
    private function arrows(string $room, string $namespace): array
    {
        $arrows = [];
        foreach ($this->phpFiles($room) as $file) {
            $parts = explode('/', substr($file, strlen(dirname(__DIR__, 2)."/{$room}/")));
            $module = count($parts) === 1 ? '' : $parts[0];
            $arrows[$module] ??= [];
            preg_match_all('/(?<![\w\\\\])\\\\?'.preg_quote($namespace, '/').'\\\\(\w+)\\\\\w/', $this->withoutComments($file), $found);
            foreach ($found[1] as $other) {
                if ($other !== $module) {
                    $arrows[$module][$other] ??= $file;
                }
            }
        }

        return $arrows;
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
