<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\People\Person;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\Security\Core\Exception\DisabledException;
use Symfony\Component\Security\Http\Event\CheckPassportEvent;

/** Someone who is no longer active cannot sign in. */
#[AsEventListener(priority: 100)]
final class ActivePeopleOnly
{
    public function __invoke(CheckPassportEvent $event): void
    {
        $person = $event->getPassport()->getUser();
        if ($person instanceof Person && ! $person->isActive()) {
            throw new DisabledException('No longer active.');
        }
    }
}
