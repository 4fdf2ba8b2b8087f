<?php

declare(strict_types=1);

namespace Sorvel\App\Machine;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Access\CurrentPerson;
use Sorvel\App\Http\Body;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

/** One's own tokens for machines: made, listed, ended. The secret is shown once. */
#[IsGranted(Role::BUILDER)]
final class TokenController
{
    private const MOST = 50;

    public function __construct(private readonly EntityManagerInterface $entities, private readonly CurrentPerson $person, private readonly ClockInterface $clock)
    {
    }

    #[Route('/api/tokens', methods: ['GET'])]
    public function list(): JsonResponse
    {
        return new JsonResponse(['tokens' => array_map(fn (MachineToken $t): array => $t->toArray(), $this->mine())]);
    }

    #[Route('/api/tokens', methods: ['POST'])]
    public function make(Request $request): JsonResponse
    {
        if (ByToken::carriesOne($request)) {
            throw new Problem(409, 'A token cannot make another.', 'Sign in as a person.');
        }
        $body = Body::of($request);
        $name = trim($body->text('name'));
        if ($name === '' || mb_strlen($name) > 100) {
            throw new Problem(422, 'A token needs a name.', 'Say which machine uses it.', [['pointer' => '/name', 'detail' => $name === '' ? 'It must not be empty.' : 'At most 100 characters fit.']]);
        }
        $order = array_flip(array_map(fn (Role $r): string => $r->value, Role::cases()));
        $role = Role::tryFrom($body->textOrNull('role') ?? Role::Builder->value);
        if ($role === null || $order[$role->value] > $order[$this->person->role()->value]) {
            throw new Problem(422, 'This role cannot be given.', '', [['pointer' => '/role', 'detail' => sprintf('It is one of %s.', implode(', ', array_slice(array_keys($order), 0, $order[$this->person->role()->value] + 1)))]]);
        }
        if (count($this->mine()) >= self::MOST) {
            throw new Problem(409, 'You have fifty tokens.', 'End one that is no longer used.');
        }
        $secret = 'svl_'.bin2hex(random_bytes(24));
        $token = new MachineToken($name, $secret, $this->person->key(), $role, $this->clock->now());
        $this->entities->persist($token);
        $this->entities->flush();

        return new JsonResponse([...$token->toArray(), 'secret' => $secret], 201);
    }

    #[Route('/api/tokens/{number}', methods: ['DELETE'], requirements: ['number' => '\d{1,9}'])]
    public function end(int $number): JsonResponse
    {
        foreach ($this->mine() as $token) {
            if ($token->id() === $number) {
                $this->entities->remove($token);
                $this->entities->flush();

                return new JsonResponse(null, 204);
            }
        }
        throw new Problem(404, 'You have no such token.');
    }

    /** @return list<MachineToken> */
    private function mine(): array
    {
        return array_values($this->entities->getRepository(MachineToken::class)->findBy(['person' => $this->person->key()], ['id' => 'DESC']));
    }
}
