<?php

declare(strict_types=1);

namespace Sorvel\App\Machine;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Sorvel\App\Http\Problem;
use Sorvel\App\People\Person;
use Sorvel\App\People\Role;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Security\Core\Exception\AuthenticationException;
use Symfony\Component\Security\Core\Exception\BadCredentialsException;
use Symfony\Component\Security\Http\AccessToken\AccessTokenHandlerInterface;
use Symfony\Component\Security\Http\Authentication\AuthenticationFailureHandlerInterface;
use Symfony\Component\Security\Http\Authenticator\Passport\Badge\UserBadge;

/** Whom a token stands for. */
final class TokenBearer implements AccessTokenHandlerInterface, AuthenticationFailureHandlerInterface
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly ClockInterface $clock)
    {
    }

    public function getUserBadgeFrom(#[\SensitiveParameter] string $accessToken): UserBadge
    {
        $token = $this->entities->getRepository(MachineToken::class)->findOneBy(['digest' => MachineToken::digest($accessToken)]);
        $person = $token === null ? null : $this->entities->find(Person::class, $token->person());
        if ($token === null || ! $token->is($accessToken) || $person === null || ! $person->isActive()) {
            throw new BadCredentialsException('No such token.');
        }
        if ($token->used($this->clock->now())) {
            $this->entities->flush();
        }
        $order = array_flip(array_map(fn (Role $r): string => $r->value, Role::cases()));
        $role = $order[$token->role()->value] <= $order[$person->role()->value] ? $token->role() : $person->role();

        return new UserBadge($person->getUserIdentifier(), fn (): Person => $person->inRole($role));
    }

    public function onAuthenticationFailure(Request $request, AuthenticationException $exception): Response
    {
        return (new Problem(401, 'This token is not known.', 'It may have been ended, or whoever made it is no longer active. Make another one.'))->response();
    }
}
