<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\Http\Problem;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Security\Core\Exception\AccessDeniedException;
use Symfony\Component\Security\Core\Exception\AuthenticationException;
use Symfony\Component\Security\Http\Authorization\AccessDeniedHandlerInterface;
use Symfony\Component\Security\Http\EntryPoint\AuthenticationEntryPointInterface;

/** Not signed in, or not in the role: as problem details. */
final class AccessProblems implements AccessDeniedHandlerInterface, AuthenticationEntryPointInterface
{
    public function start(Request $request, ?AuthenticationException $authException = null): Response
    {
        return (new Problem(401, 'You are not signed in.', 'Sign in and try again.'))->response();
    }

    public function handle(Request $request, AccessDeniedException $accessDeniedException): Response
    {
        $roles = array_map(fn (mixed $r): string => strtolower(substr(is_string($r) ? $r : '', 5)), $accessDeniedException->getAttributes());

        return (new Problem(403, 'Your role does not allow this.', sprintf('It needs the role %s. An administrator can give it to you.', implode(' or ', array_filter($roles)))))->response();
    }
}
