<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Accounts;
use App\Http\Input;
use App\Models\User;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** The people of the installation, for its owner. */
final class UserController
{
    public function __construct(private readonly Accounts $accounts)
    {
    }

    public function index(): JsonResponse
    {
        return new JsonResponse(['data' => User::query()->orderBy('name')->get()->map($this->shape(...))->all()]);
    }

    public function update(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $change = [];
        foreach (['can_create', 'is_owner', 'disabled'] as $field) {
            if ($in->has($field)) {
                $change[$field] = $in->bool($field);
            }
        }

        return new JsonResponse($this->shape($this->accounts->change($this->one($request), $change)));
    }

    /** A link by which a person sets a new password. It is shown this once. */
    public function passwordLink(Request $request): JsonResponse
    {
        return new JsonResponse(['link' => '/password/'.$this->accounts->passwordLink($this->one($request), Input::actor($request)->user)], 201);
    }

    private function one(Request $request): User
    {
        return User::query()->findOrFail(Input::id($request, 'user'));
    }

    /** @return array<string, mixed> */
    private function shape(User $user): array
    {
        return ['id' => $user->id, 'name' => $user->name, 'email' => $user->email, 'is_owner' => $user->is_owner, 'can_create' => $user->can_create, 'disabled' => $user->disabled_at !== null];
    }
}
