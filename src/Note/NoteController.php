<?php

declare(strict_types=1);

namespace Sorvel\App\Note;

use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Http\Body;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[IsGranted(Role::AGENT)]
final class NoteController
{
    public function __construct(private readonly Desk $desk, private readonly Notes $notes, private readonly CurrentPerson $person)
    {
    }

    #[Route('/api/tickets/{id}/notes', methods: ['POST'])]
    public function add(string $id, Request $request): JsonResponse
    {
        $this->desk->ticket($id);
        $body = Body::of($request);

        return new JsonResponse($this->notes->add($id, $body->text('for'), $body->text('text'), $this->person->key())->toArray(), 201);
    }
}
