<?php

declare(strict_types=1);

use App\Http\Controllers\AssignmentController;
use App\Http\Controllers\AssistController;
use App\Http\Controllers\ChoreController;
use App\Http\Controllers\CodebookController;
use App\Http\Controllers\HandbookController;
use App\Http\Controllers\HelpController;
use App\Http\Controllers\ImportController;
use App\Http\Controllers\ItemController;
use App\Http\Controllers\LearnController;
use App\Http\Controllers\ObjectController;
use App\Http\Controllers\PeopleController;
use App\Http\Controllers\ProjectController;
use App\Http\Controllers\ProposalController;
use App\Http\Controllers\ReleaseController;
use App\Http\Controllers\ReviewController;
use App\Http\Controllers\RunController;
use App\Http\Controllers\SessionController;
use App\Http\Controllers\TrialController;
use App\Http\Controllers\TurnController;
use App\Http\Controllers\UserController;
use App\Http\Controllers\WorkController;
use App\Http\Middleware\StillWelcome;
use Illuminate\Http\JsonResponse;
use Illuminate\Support\Facades\Route;

// Every route names its policy: `public`, `signed-in` (a person, about themselves), or `right:…` (App\Http\Middleware\Right).
// The permission walk in tests/ fails on a route that names none.
Route::middleware([])->group(static function (): void {
    Route::get('health', static fn (): JsonResponse => new JsonResponse(['ok' => true]))->name('public.health');
    Route::get('session', [SessionController::class, 'show'])->name('public.session');
    Route::post('session', [SessionController::class, 'store'])->middleware('throttle:sign-in')->name('public.sign-in');
    Route::delete('session', [SessionController::class, 'destroy'])->name('public.sign-out');
    Route::post('setup', [SessionController::class, 'setUp'])->middleware('throttle:sign-in')->name('public.setup');
    Route::get('passwords/{token}', [SessionController::class, 'showPasswordLink'])->middleware('throttle:sign-in')->name('public.password');
    Route::post('passwords/{token}', [SessionController::class, 'setPassword'])->middleware('throttle:sign-in')->name('public.new-password');
    Route::get('invitations/{token}', [SessionController::class, 'showInvitation'])->middleware('throttle:sign-in')->name('public.invitation');
    Route::post('invitations/{token}', [SessionController::class, 'acceptInvitation'])->middleware('throttle:sign-in')->name('public.join');
});

Route::middleware(['auth:sanctum', StillWelcome::class])->group(static function (): void {
    Route::put('session/password', [SessionController::class, 'changePassword'])->middleware('throttle:sign-in')->name('signed-in.password');
    Route::patch('session/settings', [SessionController::class, 'changeSettings'])->name('signed-in.settings');
    Route::get('work', WorkController::class)->name('signed-in.work');
    Route::get('projects', [ProjectController::class, 'index'])->name('signed-in.projects');

    Route::middleware('right:installation.manage')->group(static function (): void {
        Route::get('users', [UserController::class, 'index']);
        Route::patch('users/{user}', [UserController::class, 'update']);
        Route::post('users/{user}/password-link', [UserController::class, 'passwordLink']);
        Route::get('endpoints', [HelpController::class, 'endpoints']);
        Route::post('endpoints', [HelpController::class, 'allow']);
        Route::delete('endpoints/{endpoint}', [HelpController::class, 'disallow']);
    });
    Route::post('projects', [ProjectController::class, 'store'])->middleware('right:project.create');
    Route::get('templates', [CodebookController::class, 'templates'])->name('signed-in.templates');

    Route::prefix('projects/{project}')->group(static function (): void {
        Route::middleware('right:project.see')->group(static function (): void {
            Route::get('', [ProjectController::class, 'show']);
            Route::get('codebook', [CodebookController::class, 'show']);
            Route::get('handbook', [HandbookController::class, 'show']);
            Route::get('handbook/files/{file}', [HandbookController::class, 'file']);
            Route::get('items/{item}/picture', [ItemController::class, 'picture']);
            Route::get('items/{item}/text', [ItemController::class, 'text']);
            Route::get('items/{item}/clip/{file}', [ItemController::class, 'clip']);
            Route::get('items/{item}/tiles/{level}/{column}/{row}', [ItemController::class, 'tile']);
        });
        Route::middleware('right:project.manage')->group(static function (): void {
            Route::patch('', [ProjectController::class, 'update']);
            Route::get('codebook/versions', [CodebookController::class, 'versions']);
            Route::get('codebook/change', [CodebookController::class, 'change']);
            Route::post('codebook/check', [CodebookController::class, 'check']);
            Route::put('codebook', [CodebookController::class, 'save']);
            Route::put('handbook', [HandbookController::class, 'save']);
            Route::post('handbook/files', [HandbookController::class, 'upload']);
            Route::post('turns/{turn}/put-back', [TurnController::class, 'putBack']);
            Route::post('turns/{turn}/pass', [TurnController::class, 'pass']);
            Route::get('people', [PeopleController::class, 'index']);
            Route::get('people/candidates', [PeopleController::class, 'candidates']);
            Route::post('people', [PeopleController::class, 'add']);
            Route::post('people/{user}/password-link', [PeopleController::class, 'passwordLink']);
            Route::patch('people/{user}', [PeopleController::class, 'update']);
            Route::delete('people/{user}', [PeopleController::class, 'remove']);
            Route::post('invitations', [PeopleController::class, 'invite']);
            Route::delete('invitations/{invitation}', [PeopleController::class, 'withdraw']);
            Route::post('items/archive', [ItemController::class, 'archive']);
            Route::post('items/{item}/frames', [ItemController::class, 'frames']);
            Route::post('items/facts', [ItemController::class, 'facts']);
            Route::get('models', [HelpController::class, 'index']);
            Route::put('model-stage', [HelpController::class, 'stage']);
            Route::delete('model-stage', [HelpController::class, 'unstage']);
            Route::post('models', [HelpController::class, 'connect']);
            Route::delete('models/{model}', [HelpController::class, 'disconnect']);
            Route::post('models/{model}/check', [HelpController::class, 'check']);
            Route::post('models/{model}/try', [HelpController::class, 'try']);
            Route::get('runs', [RunController::class, 'index']);
            Route::post('runs', [RunController::class, 'begin']);
            Route::get('runs/{run}/outcome', [RunController::class, 'outcome']);
            Route::post('runs/{run}/pause', [RunController::class, 'pause']);
            Route::post('runs/{run}/resume', [RunController::class, 'resume']);
            Route::post('runs/{run}/cancel', [RunController::class, 'cancel']);
            Route::post('runs/{run}/take-back', [RunController::class, 'takeBack']);
            Route::post('learn', [LearnController::class, 'begin']);
            Route::post('models/{model}/versions/{version}/cancel', [LearnController::class, 'cancel']);
            Route::post('models/{model}/versions/{version}/use', [LearnController::class, 'use']);
            Route::get('models/{model}/versions/{version}/outcome', [LearnController::class, 'outcome']);
            Route::get('trials', [TrialController::class, 'index']);
            Route::post('trials', [TrialController::class, 'begin']);
            Route::get('trials/{trial}', [TrialController::class, 'show']);
            Route::post('trials/{trial}/cancel', [TrialController::class, 'cancel']);
            Route::get('chores', [ChoreController::class, 'index']);
            Route::delete('chores/{chore}', [ChoreController::class, 'cancel']);
            Route::post('chores/{chore}/retry', [ChoreController::class, 'retry']);
            Route::delete('imports/{import}', [ImportController::class, 'cancel']);
            Route::post('imports/{import}/retry', [ImportController::class, 'retry']);
            Route::get('imports/{import}/report', [ImportController::class, 'report']);
            Route::get('imports', [ImportController::class, 'index']);
            Route::post('imports', [ImportController::class, 'store']);
            Route::get('imports/{import}', [ImportController::class, 'show']);
            Route::get('imports/{import}/files', [ImportController::class, 'files']);
            Route::post('imports/{import}/files', [ImportController::class, 'upload']);
            Route::post('imports/{import}/files/many', [ImportController::class, 'uploads']);
            Route::put('imports/{import}/files/{file}', [ImportController::class, 'piece']);
            Route::post('imports/{import}/beside', [ImportController::class, 'beside']);
            Route::get('imports/{import}/columns', [ImportController::class, 'columns']);
            Route::post('imports/{import}/finish', [ImportController::class, 'finish']);
            Route::get('assignments', [AssignmentController::class, 'index']);
            Route::post('assignments', [AssignmentController::class, 'store']);
            Route::post('assignments/preview', [AssignmentController::class, 'preview']);
            Route::patch('assignments/{assignment}', [AssignmentController::class, 'update']);
            Route::delete('assignments/{assignment}', [AssignmentController::class, 'destroy']);
            Route::get('releases', [ReleaseController::class, 'index']);
            Route::post('releases', [ReleaseController::class, 'store']);
            Route::post('releases/preview', [ReleaseController::class, 'preview']);
            Route::get('releases/{number}', [ReleaseController::class, 'show']);
            Route::delete('releases/{number}', [ReleaseController::class, 'cancel']);
            Route::post('releases/{number}/retry', [ReleaseController::class, 'retry']);
            Route::delete('releases/{number}/editions/{edition}', [ReleaseController::class, 'drop']);
            Route::post('releases/{number}/editions', [ReleaseController::class, 'write']);
            Route::get('releases/{number}/editions/{edition}/download', [ReleaseController::class, 'download']);
        });
        Route::middleware('right:figures.see')->group(static function (): void {
            Route::get('progress', [ProjectController::class, 'progress']);
        });
        Route::middleware('right:items.see')->group(static function (): void {
            Route::get('sets', [ItemController::class, 'sets']);
            Route::get('items', [ItemController::class, 'index']);
            Route::get('items/map', [ItemController::class, 'map']);
            Route::get('items/{item}', [ItemController::class, 'show']);
            Route::get('objects/{mark}/crop', [ObjectController::class, 'crop']);
        });
        Route::get('objects', [ObjectController::class, 'index'])->middleware('right:label,items.see');
        Route::middleware('right:review')->group(static function (): void {
            Route::get('review', ReviewController::class);
            Route::get('turns/{turn}/passes', [TurnController::class, 'passes']);
            Route::post('turns/{turn}/resolve', [TurnController::class, 'resolve']);
            Route::post('turns/{turn}/decision', [TurnController::class, 'decide']);
            Route::post('turns/{turn}/pins', [TurnController::class, 'pin']);
            Route::delete('turns/{turn}/pins/{pin}', [TurnController::class, 'unpin']);
        });
        Route::patch('proposals/{proposal}', [ProposalController::class, 'answer'])->middleware('right:project.manage,review');
        Route::get('proposals', [ProposalController::class, 'index'])->middleware('right:label,project.manage');
        Route::middleware('right:label')->group(static function (): void {
            Route::post('proposals', [ProposalController::class, 'store']);
            Route::get('said', [ObjectController::class, 'said']);
            Route::get('stretches', [ObjectController::class, 'stretches']);
            Route::post('edits', [ObjectController::class, 'edits']);
            Route::post('next', [TurnController::class, 'next']);
            Route::get('turns/{turn}', [TurnController::class, 'show']);
            Route::get('turns/{turn}/queue', [TurnController::class, 'queue']);
            Route::get('turns/{turn}/phrases', [TurnController::class, 'phrases']);
            Route::get('turns/{turn}/earlier', [TurnController::class, 'earlier']);
            Route::get('turns/{turn}/queue/find', [TurnController::class, 'find']);
            Route::get('turns/{turn}/marks/{mark}/history', [TurnController::class, 'history']);
            Route::post('turns/{turn}/take', [TurnController::class, 'take']);
            Route::post('turns/{turn}/give-back', [TurnController::class, 'giveBack']);
            Route::post('turns/{turn}/edits', [TurnController::class, 'edits']);
            Route::post('turns/{turn}/compute', [AssistController::class, 'compute']);
            Route::post('turns/{turn}/between', [AssistController::class, 'between']);
            Route::post('turns/{turn}/cut-out', [AssistController::class, 'cutOut']);
            Route::post('turns/{turn}/fit-skeleton', [AssistController::class, 'fitSkeleton']);
            Route::post('turns/{turn}/cut-again', [AssistController::class, 'cutAgain']);
            Route::get('turns/{turn}/patches', [AssistController::class, 'patches']);
            Route::post('turns/{turn}/follow', [AssistController::class, 'follow']);
            Route::post('turns/{turn}/fit', [AssistController::class, 'fit']);
            Route::post('turns/{turn}/thin', [AssistController::class, 'thin']);
            Route::put('turns/{turn}/seen', [TurnController::class, 'seen']);
            Route::post('turns/{turn}/park', [TurnController::class, 'park']);
            Route::post('turns/{turn}/submit', [TurnController::class, 'submit']);
            Route::post('turns/{turn}/take-back', [TurnController::class, 'takeBack']);
        });
    });
});
