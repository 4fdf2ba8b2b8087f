<?php

declare(strict_types=1);

namespace Sorvel\App\Notice;

use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class NoticeController
{
    public function __construct(private readonly Notices $notices, private readonly CurrentPerson $person, private readonly ClockInterface $clock)
    {
    }

    /** One notice has been looked at, or all of them. */
    #[Route('/api/notices/seen', methods: ['POST'])]
    public function seen(Request $request): JsonResponse
    {
        $this->notices->seen($this->person->key(), Body::of($request)->integerOrNull('notice'), $this->clock->now());

        return new JsonResponse(['notices' => $this->notices->unseen($this->person->key())]);
    }
}
