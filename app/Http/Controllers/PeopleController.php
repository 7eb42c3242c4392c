<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Access\Accounts;
use App\Http\Input;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\User;
use App\Work\Members;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Str;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Role;

/** The people of a project and the links that invite more. */
final class PeopleController
{
    public function __construct(private readonly Members $members)
    {
    }

    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);

        return new JsonResponse([
            'data' => $project->memberships()->with('user')->get()->sortBy('user.name')->values()->map($this->shape(...))->all(),
            'invitations' => $project->invitations()->whereNull('used_at')->where('expires_at', '>', now())->orderBy('id')->get()->map(static fn (Invitation $row): array => ['id' => $row->id, 'role' => $row->role->value, 'note' => $row->note, 'expires_at' => $row->expires_at->toIso8601ZuluString()])->all(),
        ]);
    }

    public function invite(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $token = Str::random(40);
        $invitation = Invitation::query()->create([
            'project_id' => Input::project($request)->id,
            'created_by' => Input::actor($request)->user->id,
            'role' => $this->role($in),
            'note' => $in->optionalString('note', 120) ?? '',
            'token_hash' => hash('sha256', $token),
            'expires_at' => now()->addDays(config()->integer('skeno.invitation_days')),
        ]);

        // the token is shown this once; only its hash is kept
        return new JsonResponse(['id' => $invitation->id, 'link' => "/join/{$token}", 'expires_at' => $invitation->expires_at->toIso8601ZuluString()], 201);
    }

    public function withdraw(Request $request): Response
    {
        Input::project($request)->invitations()->findOrFail(Input::id($request, 'invitation'))->delete();

        return new Response('', 204);
    }

    /** Everybody of the installation who is not in the project yet, for its manager to choose from. */
    public function candidates(Request $request): JsonResponse
    {
        $here = Input::project($request)->memberships()->select('user_id');

        return new JsonResponse(['data' => User::query()->whereNull('disabled_at')->whereNotIn('id', $here)->orderBy('name')->get()->map(static fn (User $user): array => ['id' => $user->id, 'name' => $user->name])->all()]);
    }

    public function add(Request $request): JsonResponse
    {
        $in = Input::body($request);
        $id = $in->int('user', 1);
        $member = $this->members->add(Input::project($request), User::query()->find($id) ?? throw InvalidValue::at('user', $id, 'a person of this installation'), $this->role($in));

        return new JsonResponse($this->shape($member->load('user')), 201);
    }

    public function update(Request $request): JsonResponse
    {
        $member = $this->member($request);
        $this->members->change($member, $this->role(Input::body($request)));

        return new JsonResponse($this->shape($member));
    }

    /** Removes a person from the project; what they hold goes to `to`, or back to the queue. */
    public function remove(Request $request): JsonResponse
    {
        $to = $request->query('to');
        $user = $to === null ? null : (is_string($to) && ctype_digit($to) ? User::query()->find((int) $to) : null) ?? throw InvalidValue::at('to', $to, 'a person of this project');

        return new JsonResponse($this->members->remove($this->member($request), $user));
    }

    /** A link by which a person of the project sets a new password. It is shown this once. */
    public function passwordLink(Request $request, Accounts $accounts): JsonResponse
    {
        return new JsonResponse(['link' => '/password/'.$accounts->passwordLink($this->member($request)->user, Input::actor($request)->user)], 201);
    }

    /** @return array<string, mixed> */
    private function shape(Membership $row): array
    {
        return ['id' => $row->user->id, 'name' => $row->user->name, 'email' => $row->user->email, 'role' => $row->role->value, 'disabled' => $row->user->disabled_at !== null];
    }

    private function member(Request $request): Membership
    {
        return Input::project($request)->memberships()->with('user')->where('user_id', Input::id($request, 'user'))->firstOrFail();
    }

    private function role(Fields $in): Role
    {
        return Role::tryFrom($in->string('role', 20)) ?? throw InvalidValue::at('role', $in->raw('role'), implode(', ', array_column(Role::cases(), 'value')));
    }
}
