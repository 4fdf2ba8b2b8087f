<?php

declare(strict_types=1);

namespace Sorvel\App\People;

/** What a person may do; each may do what those before may. */
enum Role: string
{
    case Requester = 'requester';
    case Agent = 'agent';
    case Builder = 'builder';
    case Publisher = 'publisher';
    case Administrator = 'administrator';

    public const REQUESTER = 'ROLE_REQUESTER';

    public const AGENT = 'ROLE_AGENT';

    public const BUILDER = 'ROLE_BUILDER';

    public const PUBLISHER = 'ROLE_PUBLISHER';

    public const ADMINISTRATOR = 'ROLE_ADMINISTRATOR';

    public function core(): \Sorvel\Core\Model\Role
    {
        return \Sorvel\Core\Model\Role::from($this->value);
    }

    public function security(): string
    {
        return 'ROLE_'.strtoupper($this->value);
    }
}
