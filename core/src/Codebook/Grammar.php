<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Opis\JsonSchema\Errors\ValidationError;
use Opis\JsonSchema\Validator;
use RuntimeException;

/** Checks a document against codebook.schema.json (JSON Schema 2020-12), each error a path such as `classes[0].shapes`. */
final class Grammar
{
    private const MOST_ERRORS = 50;

    /** @return list<array{path: string, message: string}> */
    public static function errors(mixed $document): array
    {
        $schema = self::schema();
        $validator = new Validator;
        $validator->setMaxErrors(self::MOST_ERRORS)->setStopAtFirstError(false);
        $validator->parser()->setDefaultDraftVersion('2020-12');
        // opis tells objects from lists by PHP type, so the document goes through JSON once
        $error = $validator->validate(json_decode((string) json_encode(self::shaped($document), JSON_PRESERVE_ZERO_FRACTION)), $schema)->error();
        $found = [];
        if ($error !== null) {
            self::collect($error, $found);
        }

        return array_slice(array_values($found), 0, self::MOST_ERRORS);
    }

    /**
     * A document in which what is empty is an object where the grammar has one: PHP arrays do not tell `{}` from `[]`.
     */
    public static function shaped(mixed $document): mixed
    {
        return self::shape($document, self::schema());
    }

    private static function shape(mixed $value, mixed $schema): mixed
    {
        if (! is_array($value) || ! is_object($schema)) {
            return $value;
        }
        if (isset($schema->{'$ref'}) && is_string($schema->{'$ref'})) {
            $at = self::schema();
            foreach (explode('/', ltrim($schema->{'$ref'}, '#/')) as $part) {
                $at = is_object($at) ? get_object_vars($at)[$part] ?? null : null;
            }

            return self::shape($value, $at);
        }
        if (($schema->type ?? null) === 'object') {
            $properties = is_object($schema->properties ?? null) ? get_object_vars($schema->properties) : [];
            $other = $schema->additionalProperties ?? null;
            $shaped = [];
            foreach ($value as $key => $entry) {
                $shaped[$key] = self::shape($entry, $properties[$key] ?? $other);
            }

            return (object) $shaped;
        }

        return array_map(static fn (mixed $entry): mixed => self::shape($entry, $schema->items ?? null), $value);
    }

    private static function schema(): object
    {
        static $schema = null;
        $schema ??= json_decode((string) file_get_contents(self::file()), false, 512, JSON_THROW_ON_ERROR);

        return is_object($schema) ? $schema : throw new RuntimeException('codebook.schema.json is not an object');
    }

    public static function file(): string
    {
        return dirname(__DIR__, 2).'/resources/codebook.schema.json';
    }

    /** @param  array<string, array{path: string, message: string}>  $found */
    private static function collect(ValidationError $error, array &$found): void
    {
        if ($error->subErrors() !== []) {
            foreach ($error->subErrors() as $sub) {
                if ($sub instanceof ValidationError) {
                    self::collect($sub, $found);
                }
            }

            return;
        }
        $path = self::path($error->data()->fullPath());
        $args = $error->args();
        if ($error->keyword() === 'additionalProperties') {
            // opis calls every property additional once one beside it failed; only those the schema does not name are meant
            $schema = $error->schema()->info()->data();
            $known = is_object($schema) && isset($schema->properties) && is_object($schema->properties) ? array_keys(get_object_vars($schema->properties)) : [];
            $args['properties'] = array_diff(array_map(self::word(...), (array) ($args['properties'] ?? [])), $known);
            if ($args['properties'] === []) {
                return;
            }
        }
        $message = match ($error->keyword()) {
            'required' => self::join($args['missing'] ?? [], 'is missing'),
            'additionalProperties' => self::join($args['properties'] ?? [], 'is not known here'),
            'enum', 'const' => self::value($error).' is not one of the words allowed here',
            'pattern' => self::value($error).' does not match '.self::word($args['pattern'] ?? ''),
            'type' => self::value($error).' should be '.self::word($args['expected'] ?? ''),
            'minItems' => 'needs at least '.self::word($args['min'] ?? '').' entries',
            'maxItems' => 'takes at most '.self::word($args['max'] ?? '').' entries',
            'minLength' => 'must not be empty',
            'maxLength' => 'is longer than '.self::word($args['max'] ?? '').' characters',
            'uniqueItems' => 'holds an entry twice',
            'minimum', 'exclusiveMinimum' => self::value($error).' must be '.($error->keyword() === 'minimum' ? 'at least ' : 'more than ').self::word($args['min'] ?? ''),
            'maximum' => self::value($error).' must be at most '.self::word($args['max'] ?? ''),
            'properties' => 'only choices (types one and many) have options',
            default => self::word($error->message()),
        };
        $found[$path.'|'.$message] = ['path' => $path === '' ? '(document)' : $path, 'message' => $message];
    }

    /** @param  array<array-key, int|string>  $parts */
    private static function path(array $parts): string
    {
        $path = '';
        foreach ($parts as $part) {
            $path .= is_int($part) ? "[{$part}]" : ($path === '' ? '' : '.').$part;
        }

        return $path;
    }

    private static function join(mixed $names, string $what): string
    {
        $names = is_array($names) ? array_map(self::word(...), $names) : [self::word($names)];

        return implode(', ', array_map(static fn (string $name): string => "\"{$name}\"", $names)).' '.$what;
    }

    private static function value(ValidationError $error): string
    {
        $value = $error->data()->value();

        return \Skeno\Core\InvalidValue::show(is_object($value) ? (array) $value : $value);
    }

    private static function word(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : implode(' or ', array_map(static fn (mixed $entry): string => is_scalar($entry) ? (string) $entry : '?', (array) $value));
    }
}
