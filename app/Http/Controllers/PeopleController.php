<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Input;
use App\Http\Refusal;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\Project;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\Fields;
use Skeno\Core\InvalidValue;
use Skeno\Core\People\Role;

/** The people of a project and the links that invite more. */
final class PeopleController
{
    public function index(Request $request): JsonResponse
    {
        $project = Input::project($request);

        return new JsonResponse([
            'data' => $project->memberships()->with('user')->get()->sortBy('user.name')->values()->map(static fn (Membership $row): array => ['id' => $row->user->id, 'name' => $row->user->name, 'email' => $row->user->email, 'role' => $row->role->value])->all(),
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

    public function update(Request $request): JsonResponse
    {
        $row = $this->member($request);
        $role = $this->role(Input::body($request));
        DB::transaction(function () use ($row, $role): void {
            $row->update(['role' => $role]);
            $this->mustHaveManager($row->project_id);
        });

        return new JsonResponse(['id' => $row->user->id, 'name' => $row->user->name, 'email' => $row->user->email, 'role' => $role->value]);
    }

    /** Removes a person from the project; what they did stays, what they hold goes back. */
    public function remove(Request $request): Response
    {
        $row = $this->member($request);
        DB::transaction(function () use ($row): void {
            $row->delete();
            $this->mustHaveManager($row->project_id);
            DB::table('assignment_people')->where('user_id', $row->user_id)->whereIn('assignment_id', DB::table('assignments')->where('project_id', $row->project_id)->select('id'))->delete();
            \App\Models\Turn::query()->where('project_id', $row->project_id)->where('user_id', $row->user_id)->where('state', 'open')->update(['leased_until' => now()->subSecond()]);
            app(\App\Work\Turns::class)->giveBackExpired(Project::query()->findOrFail($row->project_id));
        });

        return new Response('', 204);
    }

    private function mustHaveManager(int $project): void
    {
        if (Membership::query()->where('project_id', $project)->where('role', Role::Manager)->doesntExist()) {
            throw Refusal::because('last_manager', 'a project needs a manager; make somebody else manager first');
        }
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
