<?php

declare(strict_types=1);

use App\Files\Pass;
use App\Support\StateFolder;
use Illuminate\Http\Request;

$base = dirname(__DIR__);
if (isset($_GET['pass'])) {
    require_once "{$base}/app/Support/StateFolder.php";
    require_once "{$base}/app/Files/Pass.php";
    if (Pass::serve($_SERVER['REQUEST_METHOD'] ?? '', (string) parse_url($_SERVER['REQUEST_URI'] ?? '', PHP_URL_PATH), $_GET, StateFolder::place($base))) {
        return;
    }
}
require "{$base}/vendor/autoload.php";
(require "{$base}/bootstrap/app.php")->handleRequest(Request::capture());
