<?php

declare(strict_types=1);

namespace App\Console;

use App\Access\Accounts;
use App\Models\User;
use Skeno\Core\InvalidValue;

final class PasswordCommand extends SkenoCommand
{
    protected $signature = 'skeno:password {email} {--json}';

    protected $description = 'Make a link by which a person sets a new password, for instance an owner who has forgotten theirs';

    protected function work(): int
    {
        $email = mb_strtolower($this->text('email'));
        $user = User::query()->where('email', $email)->first() ?? throw InvalidValue::at('EMAIL', $email, 'the address of somebody who has an account');
        $link = config()->string('app.url').'/password/'.app(Accounts::class)->passwordLink($user, null);
        $this->line($this->option('json') === true ? $this->json(['link' => $link]) : "For {$user->name}, once, within a day: {$link}");

        return self::DONE;
    }
}
