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
            // (the service worker passes on what the browser asks for, and asks for nothing itself)
            if (preg_match('/\.(ts|svelte)$/', $file->getPathname()) === 1 && preg_match('#/lib/api/|/src/test/|/service-worker\.ts$|\.test\.ts$#', $file->getPathname()) !== 1) {
                self::assertDoesNotMatchRegularExpression('/(?<![\w.])fetch\(|XMLHttpRequest/', (string) file_get_contents($file->getPathname()), $file->getPathname());
            }
        }
    }

    /** What a module of the front end may import of the others. A module that is not here has none to mind. */
    private const WEB = [
        'api' => [],
        'state' => ['api'],
        'ui' => ['api', 'state'],
        'words' => ['api', 'ui'],
        'edits' => ['api', 'words'],
        'keys' => ['api', 'state', 'ui', 'words'],
        'plane' => ['api', 'words', 'edits', 'keys'],
        'text' => ['api', 'words', 'edits'],
        'kinds' => ['api', 'ui', 'words', 'edits', 'keys', 'plane', 'time', 'text'],
        'time' => ['api', 'ui', 'words', 'edits', 'keys'],
        'bench' => ['api', 'state', 'ui', 'words', 'edits', 'keys', 'kinds'],
        'objects' => ['api', 'ui', 'words', 'edits', 'keys', 'plane'],
        'items' => ['api', 'state', 'ui', 'words'],
        'intake' => ['api', 'state', 'ui', 'items'],
        'describe' => ['api', 'state', 'ui', 'words', 'keys'],
        'help' => ['api', 'words', 'plane', 'items'],
        'prompts' => ['api', 'ui', 'words', 'text', 'help'],
    ];

    /** The bench is a shell: it knows that there are kinds of items, and none of them by name; a kind knows no other. */
    public function test_modules_of_the_front_end_point_one_way(): void
    {
        $lib = dirname(__DIR__, 2).'/web/src/lib';
        $wrong = [];
        $arrows = 0;
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($lib, \FilesystemIterator::SKIP_DOTS)) as $file) {
            $path = substr($file->getPathname(), strlen($lib) + 1);
            if (preg_match('/\.(ts|svelte)$/', $path) !== 1 || preg_match('/\.test\.ts$|\.d\.ts$/', $path) === 1) {
                continue;
            }
            [$module] = explode('/', $path);
            self::assertArrayHasKey($module, self::WEB, "{$path}: say in RoomsTest::WEB what the module may import");
            foreach ($this->imports($file->getPathname(), $lib) as $to) {
                [$other] = explode('/', $to);
                $arrows += $other === $module ? 0 : 1;
                $fine = $other === $module || in_array($other, self::WEB[$module], true);
                // only the contract and the registry of the kinds are known outside of them, and the registry alone knows their names;
                // a folder without an index is no kind but what several of them share (flat), for kinds only
                $folder = preg_match('#^kinds/(\w+)/#', "{$to}/", $found) === 1 && is_dir("{$lib}/kinds/{$found[1]}") ? $found[1] : null;
                $ofKind = $folder !== null && (is_file("{$lib}/kinds/{$folder}/index.ts") || ! str_starts_with($path, 'kinds/'));
                if (! $fine || ($ofKind && $path !== 'kinds/index.ts' && ! str_starts_with($path, "kinds/{$folder}/"))) {
                    $wrong[] = "{$path} imports {$to}";
                }
            }
        }
        self::assertGreaterThan(150, $arrows);
        self::assertSame([], $wrong);
    }

    /** The code of a kind is not in what a page loads first: it comes with the first item of the kind. */
    public function test_a_kind_is_loaded_when_it_is_needed(): void
    {
        $registry = (string) file_get_contents(dirname(__DIR__, 2).'/web/src/lib/kinds/index.ts');
        self::assertDoesNotMatchRegularExpression("#^import (?!type)[^;]*'\./(?!kind')#m", $registry);
        $manifest = dirname(__DIR__, 2).'/web/build/_app/version.json';
        if (! is_file($manifest)) {
            self::markTestSkipped('the front end is not built here');
        }
        $build = dirname($manifest).'/immutable';
        $code = static fn (string $file): string => (string) file_get_contents($file);
        // words that stand only in the kind's own code
        $own = array_filter((array) glob("{$build}/chunks/*.js"), static fn (string $file): bool => str_contains($code($file), 'all but the mark in hand'));
        self::assertCount(1, $own, 'the kind has a chunk of its own');
        $name = basename((string) reset($own));
        foreach ([...(array) glob("{$build}/entry/*.js"), ...(array) glob("{$build}/nodes/*.js")] as $file) {
            self::assertDoesNotMatchRegularExpression('#(^|;)import[^;(]*'.preg_quote($name, '#').'#', $code((string) $file), basename((string) $file)." loads {$name} at once");
        }
    }

    /** @return list<string> modules and files below `lib` a file imports, also those it loads later */
    private function imports(string $file, string $lib): array
    {
        preg_match_all('/(?:\bfrom\s+|\bimport\s*\(?\s*)\'([^\']+)\'/', (string) file_get_contents($file), $found);
        $imports = [];
        foreach ($found[1] as $name) {
            if (str_starts_with($name, '$lib/')) {
                $imports[] = substr($name, 5);
            } elseif (str_starts_with($name, '.')) {
                $parts = explode('/', substr(dirname($file), strlen($lib) + 1));
                foreach (explode('/', $name) as $part) {
                    if ($part === '..') {
                        array_pop($parts);
                    } elseif ($part !== '.') {
                        $parts[] = $part;
                    }
                }
                $imports[] = implode('/', $parts);
            }
        }

        return $imports;
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
