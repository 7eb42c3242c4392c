<?php

declare(strict_types=1);

return ['stateful' => [], 'guard' => ['web'], 'expiration' => null, 'last_used_at' => false];
