<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\People\Person;
use Sorvel\App\People\Role;
use Symfony\Bundle\SecurityBundle\Security;

/** Who is asking. */
final class CurrentPerson
{
    public function __construct(private readonly Security $security)
    {
    }

    public function role(): Role
    {
        $person = $this->security->getUser();

        return $person instanceof Person ? $person->role() : throw new \LogicException('This route needs someone signed in.');
    }

    public function key(): string
    {
        $person = $this->security->getUser();

        return $person instanceof Person ? $person->key() : throw new \LogicException('This route needs someone signed in.');
    }
}
