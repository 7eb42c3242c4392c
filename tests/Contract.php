<?php

declare(strict_types=1);

namespace Tests;

use Opis\JsonSchema\Errors\ErrorFormatter;
use Opis\JsonSchema\Validator;
use PHPUnit\Framework\Assert;
use Symfony\Component\Yaml\Yaml;

/** Holds real responses against docs/openapi.yaml. */
final class Contract
{
    private const ID = 'https://skeno.invalid/openapi';

    private static ?self $instance = null;

    private readonly object $document;

    private readonly Validator $validator;

    private function __construct()
    {
        $document = Yaml::parseFile(__DIR__.'/../docs/openapi.yaml', Yaml::PARSE_OBJECT_FOR_MAP | Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE);
        Assert::assertIsObject($document);
        $this->document = $document;
        $this->validator = new Validator;
        $this->validator->setMaxErrors(10)->setStopAtFirstError(false);
        $this->validator->parser()->setDefaultDraftVersion('2020-12');
        $this->validator->resolver()?->registerRaw($document, self::ID);
    }

    public static function get(): self
    {
        return self::$instance ??= new self;
    }

    /** @return list<string> such as `get /projects/{project}` */
    public function operations(): array
    {
        $operations = [];
        foreach (get_object_vars($this->document->paths) as $path => $methods) {
            foreach (array_keys(get_object_vars($methods)) as $method) {
                $operations[] = "{$method} {$path}";
            }
        }
        sort($operations);

        return $operations;
    }

    public function assertResponse(string $method, string $path, int $status, string $type, string $body): void
    {
        $responses = $this->document->paths->{$path}->{$method}->responses ?? null;
        Assert::assertNotNull($responses, "docs/openapi.yaml does not know {$method} {$path}");
        if ($status >= 400) {
            $pointer = ['components', 'responses', 'Problem', 'content', 'application/problem+json', 'schema'];
            Assert::assertSame('application/problem+json', $type, $body);
        } else {
            Assert::assertTrue(isset($responses->{(string) $status}), "{$method} {$path} answered {$status}, which docs/openapi.yaml does not know");
            $content = $responses->{(string) $status}->content ?? null;
            if ($content === null) {
                Assert::assertSame('', $body, "{$method} {$path} should answer nothing");

                return;
            }
            if (! isset($content->{'application/json'})) {
                return;
            }
            $pointer = ['paths', $path, $method, 'responses', (string) $status, 'content', 'application/json', 'schema'];
        }
        $uri = self::ID.'#/'.implode('/', array_map(static fn (string $part): string => rawurlencode(strtr($part, ['~' => '~0', '/' => '~1'])), $pointer));
        $result = $this->validator->validate(json_decode($body, false, 512, JSON_THROW_ON_ERROR), $uri);
        $error = $result->error();
        Assert::assertTrue($result->isValid(), "{$method} {$path} {$status}: ".($error === null ? '' : json_encode((new ErrorFormatter)->format($error), JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES)));
    }
}
