<?php

declare(strict_types=1);

namespace Skeno\Core\Inference;

use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;

/**
 * What is sent to a model and comes back (Open Inference Protocol, version 2, with its binary tensor extension): a JSON header, and behind
 * it the bytes of tensors whose `parameters.binary_data_size` says so.
 */
final class Message
{
    /** The header in which the length of the JSON stands, where bytes follow it. */
    public const LENGTH = 'Inference-Header-Content-Length';

    /** Bytes of JSON that are read. */
    private const MOST_JSON = 64_000_000;

    private const MOST_TENSORS = 64;

    /**
     * @param  list<string>  $wanted  names of the outputs
     * @param  bool  $binary  whether bytes are sent and asked for; else numbers in JSON
     * @return array{body: string, length: ?int} length: of the JSON, where bytes follow
     */
    public static function request(Tensor $input, array $wanted, bool $binary): array
    {
        $bytes = $binary ? $input->type->pack($input->values) : '';
        $json = json_encode([
            'inputs' => [['name' => $input->name, 'shape' => $input->shape, 'datatype' => $input->type->value] + ($binary ? ['parameters' => ['binary_data_size' => strlen($bytes)]] : ['data' => $input->values])],
            'outputs' => array_map(static fn (string $name): array => ['name' => $name, 'parameters' => ['binary_data' => $binary]], $wanted),
        ], JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION);

        return ['body' => $json.$bytes, 'length' => $binary ? strlen($json) : null];
    }

    /**
     * Reads the tensors of an answer.
     *
     * @param  ?int  $length  of the JSON, as the header says; null: all of it is JSON
     * @return array<string, Tensor> by name
     *
     * @throws InvalidValue when it is none, or says of itself what is not so
     */
    public static function response(string $body, ?int $length): array
    {
        return self::tensors($body, $length, 'outputs');
    }

    /**
     * Reads the tensors of a request: for servers.
     *
     * @return array<string, Tensor> by name
     *
     * @throws InvalidValue
     */
    public static function inputs(string $body, ?int $length): array
    {
        return self::tensors($body, $length, 'inputs');
    }

    /**
     * An answer: for servers.
     *
     * @param  list<Tensor>  $tensors
     * @return array{body: string, length: ?int}
     */
    public static function answer(string $model, array $tensors, bool $binary): array
    {
        $bytes = '';
        $outputs = [];
        foreach ($tensors as $tensor) {
            $own = $binary ? $tensor->type->pack($tensor->values) : '';
            $bytes .= $own;
            $outputs[] = ['name' => $tensor->name, 'shape' => $tensor->shape, 'datatype' => $tensor->type->value] + ($binary ? ['parameters' => ['binary_data_size' => strlen($own)]] : ['data' => $tensor->values]);
        }
        $json = json_encode(['model_name' => $model, 'outputs' => $outputs], JSON_THROW_ON_ERROR);

        return ['body' => $json.$bytes, 'length' => $binary ? strlen($json) : null];
    }

    /** @return array<string, Tensor> */
    private static function tensors(string $body, ?int $length, string $side): array
    {
        if ($length !== null && ($length < 2 || $length > strlen($body))) {
            throw InvalidValue::at(self::LENGTH, $length, 'at most the '.strlen($body).' bytes that came');
        }
        $text = $length === null ? $body : substr($body, 0, $length);
        if (strlen($text) > self::MOST_JSON) {
            throw InvalidValue::at('answer', strlen($text).' bytes of JSON', 'at most '.self::MOST_JSON);
        }
        $data = json_decode($text, true, 32);
        if (! is_array($data)) {
            throw InvalidValue::at('answer', substr($text, 0, 40), 'JSON as the protocol has it');
        }
        if (! array_key_exists($side, $data)) {
            throw InvalidValue::at($side, null, 'tensors, as the protocol has it');
        }
        $at = $length ?? strlen($body);
        $found = [];
        foreach (Fields::of($data)->objects($side) as $i => $output) {
            if ($i >= self::MOST_TENSORS) {
                throw InvalidValue::at($side, $i + 1, 'at most '.self::MOST_TENSORS.' tensors');
            }
            $name = $output->string('name', 200);
            $type = DataType::tryFrom($output->string('datatype', 20)) ?? throw InvalidValue::at("{$name}.datatype", $output->raw('datatype'), implode(', ', array_column(DataType::cases(), 'value')));
            $shape = [];
            foreach ($output->list('shape') as $n) {
                $shape[] = is_int($n) ? $n : throw InvalidValue::at("{$name}.shape", $n, 'whole numbers');
            }
            $size = $output->has('parameters') ? $output->object('parameters')->optionalInt('binary_data_size', 0) : null;
            if ($size === null) {
                $found[$name] = Tensor::of($name, $type, $shape, self::numbers($output->list('data'), $name, Tensor::count($name, $shape)));

                continue;
            }
            if ($length === null || $size > strlen($body) - $at) {
                throw InvalidValue::at($name, (strlen($body) - $at).' bytes left', "{$size}, as it says itself");
            }
            $found[$name] = Tensor::ofBytes($name, $type, $shape, substr($body, $at, $size));
            $at += $size;
        }

        return $found;
    }

    /**
     * Numbers of a tensor in JSON, in a row or nested as its shape is.
     *
     * @param  list<mixed>  $data
     * @return list<int|float>
     */
    private static function numbers(array $data, string $name, int $most): array
    {
        $numbers = [];
        $stack = [[$data, 0]];
        while ($stack !== []) {
            [$list, $i] = array_pop($stack);
            while ($i < count($list)) {
                $value = $list[$i++] ?? null;
                if (is_array($value) && count($stack) < 8) {
                    $stack[] = [$list, $i];
                    [$list, $i] = [array_values($value), 0];
                } elseif (is_bool($value)) {
                    $numbers[] = $value ? 1 : 0;
                } elseif (is_int($value) || is_float($value)) {
                    $numbers[] = $value;
                } else {
                    throw InvalidValue::at("{$name}.data", $value, 'numbers');
                }
                if (count($numbers) > $most) {
                    throw InvalidValue::at("{$name}.data", 'more than '.$most.' numbers', "{$most}, as its shape says");
                }
            }
        }

        return $numbers;
    }
}
