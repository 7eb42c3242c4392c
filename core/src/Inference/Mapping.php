<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Codebook\Tag;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/** Which of a model's names is which of a project: classes, tags, and the nodes of skeletons. What is named nowhere is left out. */
final readonly class Mapping
{
    /**
     * @param  array<string, string>  $classes  keys of the codebook by the model's names
     * @param  array<string, array<string, string>>  $nodes  by the key of a class: keys of its nodes by the model's names; of a class that is not here they are found by name
     * @param  array<string, string>  $tags  keys of the codebook by the model's names
     */
    public function __construct(public array $classes, public array $nodes = [], public array $tags = [])
    {
    }

    /**
     * Reads `{classes?, nodes?, tags?}`.
     *
     * @throws InvalidValue
     */
    public static function fromArray(mixed $data, string $path = 'mapping'): self
    {
        $fields = Fields::of($data, $path);
        $names = static function (Fields $in, string $key): array {
            $named = [];
            foreach ($in->has($key) ? $in->object($key)->all() : [] as $theirs => $ours) {
                $named[(string) $theirs] = is_string($ours) && $ours !== '' ? $ours : throw InvalidValue::at($in->path("{$key}.{$theirs}"), $ours, 'a key of this project');
            }

            return $named;
        };
        $nodes = [];
        if ($fields->has('nodes')) {
            $of = $fields->object('nodes');
            foreach (array_keys($of->all()) as $class) {
                $nodes[(string) $class] = $names($of, (string) $class);
            }
        }

        return new self($names($fields, 'classes'), $nodes, $names($fields, 'tags'));
    }

    /** What is called like something of the project. */
    public static function alike(Codebook $codebook, Knows $knows): self
    {
        $classes = $nodes = $tags = [];
        foreach ($knows->classes as $theirs) {
            foreach ($codebook->classes as $class) {
                if (self::same($theirs, $class->key) || self::same($theirs, $class->name)) {
                    $classes[$theirs] = $class->key;

                    break;
                }
            }
        }
        // of every class, since a hand may say that it is one the model calls otherwise
        foreach ($codebook->classes as $class) {
            $found = self::nodesAlike($codebook, $class->key, $knows);
            if ($found !== []) {
                $nodes[$class->key] = $found;
            }
        }
        foreach ($knows->tags as $theirs) {
            foreach ($codebook->itemTags() as $tag) {
                if (self::same($theirs, $tag->key) || self::same($theirs, $tag->name)) {
                    $tags[$theirs] = $tag->key;

                    break;
                }
            }
        }

        return new self($classes, $nodes, $tags);
    }

    /** @return array<string, string> keys of the nodes of a class by the model's names, as far as they are called alike */
    public static function nodesAlike(Codebook $codebook, string $key, Knows $knows): array
    {
        $class = $codebook->class($key);
        $nodes = [];
        foreach ($class === null ? [] : $codebook->skeletonOf($class)->nodes ?? [] as $node) {
            foreach ($knows->nodes as $theirs) {
                if (! isset($nodes[$theirs]) && (self::same($theirs, $node->key) || self::same($theirs, $node->name))) {
                    $nodes[$theirs] = $node->key;

                    break;
                }
            }
        }

        return $nodes;
    }

    /**
     * Holds it against what there is: every name is one of the model, every key one of the project, no node is meant twice.
     *
     * @throws InvalidValue
     */
    public function check(Codebook $codebook, Knows $knows): void
    {
        foreach ($this->classes as $theirs => $key) {
            if (! in_array((string) $theirs, $knows->classes, true)) {
                throw InvalidValue::at('classes', $theirs, 'a class of the model: '.implode(', ', $knows->classes));
            }
            if ($codebook->class($key) === null) {
                throw InvalidValue::at('classes', $key, 'the key of a class of this project');
            }
        }
        foreach ($this->tags as $theirs => $key) {
            if (! in_array((string) $theirs, $knows->tags, true)) {
                throw InvalidValue::at('tags', $theirs, 'a tag of the model: '.implode(', ', $knows->tags));
            }
            if (! in_array($key, array_map(static fn (Tag $tag): string => $tag->key, $codebook->itemTags()), true)) {
                throw InvalidValue::at('tags', $key, 'the key of a tag that is put on items of this project');
            }
        }
        foreach ($this->nodes as $key => $nodes) {
            $class = $codebook->class((string) $key);
            $skeleton = $class === null ? null : $codebook->skeletonOf($class);
            if ($skeleton === null) {
                throw InvalidValue::at('nodes', $key, 'a class of this project that is drawn as a skeleton');
            }
            foreach ($nodes as $theirs => $node) {
                if (! in_array((string) $theirs, $knows->nodes, true)) {
                    throw InvalidValue::at("nodes.{$key}", $theirs, 'a node of the model: '.implode(', ', $knows->nodes));
                }
                if (! isset($skeleton->nodes[$node])) {
                    throw InvalidValue::at("nodes.{$key}", $node, 'a node of its skeleton: '.implode(', ', array_keys($skeleton->nodes)));
                }
            }
            if (count(array_unique($nodes)) !== count($nodes)) {
                throw InvalidValue::at("nodes.{$key}", $nodes, 'each node of the skeleton once');
            }
        }
    }

    /** @return array{classes: array<string, string>, nodes: array<string, array<string, string>>, tags: array<string, string>} */
    public function toArray(): array
    {
        return ['classes' => $this->classes, 'nodes' => $this->nodes, 'tags' => $this->tags];
    }

    /** Whether two names are one, apart from case and what joins their words. */
    private static function same(string $a, string $b): bool
    {
        $plain = static fn (string $name): string => mb_strtolower((string) preg_replace('/[\s_\-]+/u', '', $name));

        return $plain($a) === $plain($b);
    }
}
