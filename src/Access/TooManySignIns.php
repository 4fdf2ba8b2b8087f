<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Symfony\Component\Security\Core\Exception\AuthenticationException;

final class TooManySignIns extends AuthenticationException
{
    public function __construct(public readonly int $seconds)
    {
        parent::__construct('Too many failed sign-ins.');
    }
}
