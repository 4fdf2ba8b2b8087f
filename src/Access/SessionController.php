<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\Http\Problem;
use Sorvel\App\People\Person;
use Symfony\Bundle\SecurityBundle\Security;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Core\User\UserInterface;

#[Anyone]
final class SessionController
{
    public function __construct(private readonly Security $security, private readonly Token $token)
    {
    }

    #[Route('/api/session', name: 'session', methods: ['GET'])]
    public function read(): JsonResponse
    {
        return new JsonResponse(self::answer($this->security->getUser(), $this->token->value()));
    }

    #[Route('/api/session', name: 'sign_in', methods: ['POST'])]
    public function signIn(): never
    {
        throw new Problem(400, 'Signing in needs "email" and "password" as texts.', 'Send {"email": "…", "password": "…"} as JSON.');
    }

    #[Route('/api/session', name: 'sign_out', methods: ['DELETE'])]
    public function signOut(): Response
    {
        if ($this->security->getUser() !== null) {
            $this->security->logout(false);
        }

        return new Response(null, 204);
    }

    /** @return array{person: array<string, string>|null, token: string} */
    public static function answer(?UserInterface $person, string $token): array
    {
        return [
            'person' => $person instanceof Person ? ['key' => $person->key(), 'name' => $person->name(), 'email' => $person->email(), 'role' => $person->role()->value] : null,
            'token' => $token,
        ];
    }
}
