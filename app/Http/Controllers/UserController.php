<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Http\Refusal;
use App\Models\User;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;

/** The people of the installation, for its owner. */
final class UserController
{
    public function index(): JsonResponse
    {
        return new JsonResponse(['data' => User::query()->orderBy('name')->get()->map($this->shape(...))->all()]);
    }

    public function update(Request $request): JsonResponse
    {
        $user = User::query()->findOrFail(Input::id($request, 'user'));
        $in = Input::body($request);
        if ($in->has('can_create')) {
            $user->can_create = $in->bool('can_create');
        }
        if ($in->has('is_owner')) {
            $user->is_owner = $in->bool('is_owner');
            if (! $user->is_owner && User::query()->where('is_owner', true)->whereKeyNot($user->id)->doesntExist()) {
                throw Refusal::because('last_owner', 'an installation needs an owner; make somebody else owner first');
            }
        }
        $user->save();

        return new JsonResponse($this->shape($user));
    }

    /** @return array<string, mixed> */
    private function shape(User $user): array
    {
        return ['id' => $user->id, 'name' => $user->name, 'email' => $user->email, 'is_owner' => $user->is_owner, 'can_create' => $user->can_create];
    }
}
