<?php

declare(strict_types=1);

// A small model server for the demo and the tests: php -S 127.0.0.1:PORT stand-ins/serve.php. It speaks the Open Inference Protocol, version 2,
// and its models look at the pixels they are sent, nothing else: they are as good as such simple rules can be. Its chat models (the chat-completions
// protocol) look at the words they are sent.

use Skeno\Core\Inference\Message;
use Skeno\Core\InvalidValue;
use Skeno\StandIns\ChatServer;
use Skeno\StandIns\FruitFinder;
use Skeno\StandIns\FruitRegions;
use Skeno\StandIns\Model;
use Skeno\StandIns\MothPoser;

require __DIR__.'/../vendor/autoload.php';

/** @var array<string, Model> $models */
$models = ['fruit-finder' => new FruitFinder, 'fruit-regions' => new FruitRegions, 'moth-poser' => new MothPoser];
$path = (string) parse_url($_SERVER['REQUEST_URI'] ?? '/', PHP_URL_PATH);
$send = static function (int $status, mixed $json): void {
    http_response_code($status);
    header('Content-Type: application/json');
    echo json_encode($json);
};
if ($path === '/v2/health/live' || $path === '/v2/health/ready') {
    $send(200, ['live' => true]);

    return;
}
if ($path === '/v1/chat/completions') {
    [$status, $said] = ($_SERVER['REQUEST_METHOD'] ?? '') === 'POST'
        ? (new ChatServer)->answer((string) ($_SERVER['HTTP_AUTHORIZATION'] ?? ''), (string) file_get_contents('php://input'))
        : [405, ['error' => ['message' => 'post what is to be said']]];
    if (is_string($said)) {
        http_response_code($status);
        echo $said;
    } else {
        $send($status, $said);
    }

    return;
}
if (preg_match('#^/v2/models/([^/]+)(?:/versions/[^/]+)?(/ready|/infer)?$#D', $path, $m) !== 1 || ! isset($models[rawurldecode($m[1])])) {
    $send(404, ['error' => 'there is no such model here; there are '.implode(', ', array_keys($models))]);

    return;
}
$model = $models[rawurldecode($m[1])];
$what = $m[2] ?? '';
if ($what === '/ready') {
    $send(200, ['ready' => true]);
} elseif ($what === '') {
    $send(200, ['name' => rawurldecode($m[1]), 'versions' => ['1'], 'platform' => 'stand-in'] + $model->tensors());
} elseif (($_SERVER['REQUEST_METHOD'] ?? '') !== 'POST') {
    $send(405, ['error' => 'post a picture to it']);
} else {
    try {
        $length = $_SERVER['HTTP_INFERENCE_HEADER_CONTENT_LENGTH'] ?? null;
        $inputs = Message::inputs((string) file_get_contents('php://input'), is_numeric($length) ? (int) $length : null);
        $answer = Message::answer(rawurldecode($m[1]), $model->infer($inputs), $length !== null);
        if ($answer['length'] !== null) {
            header(Message::LENGTH.": {$answer['length']}");
            header('Content-Type: application/octet-stream');
        } else {
            header('Content-Type: application/json');
        }
        echo $answer['body'];
    } catch (InvalidValue $e) {
        $send(400, ['error' => $e->getMessage()]);
    }
}
