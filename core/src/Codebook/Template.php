<?php

declare(strict_types=1);

namespace Skeno\Core\Codebook;

use Skeno\Core\Fields;

/** A codebook to begin a usual task with: a file of `core/resources/templates`, `{name, description, codebook}`. */
final readonly class Template
{
    private function __construct(public string $key, public string $name, public string $description, public Codebook $codebook)
    {
    }

    /** @return list<self> in the order they are offered */
    public static function all(): array
    {
        $files = glob(dirname(__DIR__, 2).'/resources/templates/*.json');
        $templates = [];
        foreach ($files === false ? [] : $files as $file) {
            $fields = Fields::of(json_decode((string) file_get_contents($file), true, 64, JSON_THROW_ON_ERROR), basename($file));
            $templates[] = new self((string) preg_replace('~^\d+-~', '', basename($file, '.json')), $fields->string('name'), $fields->string('description'), Codebook::fromArray($fields->raw('codebook')));
        }

        return $templates;
    }

    public static function named(string $key): ?self
    {
        foreach (self::all() as $template) {
            if ($template->key === $key) {
                return $template;
            }
        }

        return null;
    }
}
