<?php

declare(strict_types=1);

use App\Http\Controllers\SpaController;
use Illuminate\Support\Facades\Route;

// every page is the front end's; it asks the API for what it may show
Route::get('/{any?}', SpaController::class)->where('any', '.*');
