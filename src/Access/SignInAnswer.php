<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Sorvel\App\Http\Problem;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Security\Core\Authentication\Token\TokenInterface;
use Symfony\Component\Security\Core\Exception\AuthenticationException;
use Symfony\Component\Security\Http\Authentication\AuthenticationFailureHandlerInterface;
use Symfony\Component\Security\Http\Authentication\AuthenticationSuccessHandlerInterface;

final class SignInAnswer implements AuthenticationFailureHandlerInterface, AuthenticationSuccessHandlerInterface
{
    public function __construct(private readonly Token $token)
    {
    }

    public function onAuthenticationSuccess(Request $request, TokenInterface $token): Response
    {
        // a new token with the new session: one read before signing in is worth nothing afterwards
        $request->getSession()->remove('token');

        return new JsonResponse(SessionController::answer($token->getUser(), $this->token->value()));
    }

    public function onAuthenticationFailure(Request $request, AuthenticationException $exception): Response
    {
        if ($exception instanceof TooManySignIns) {
            $response = (new Problem(429, 'Too many failed sign-ins.', sprintf('Wait %d second%s and try again.', $exception->seconds, $exception->seconds === 1 ? '' : 's')))->response();
            $response->headers->set('Retry-After', (string) $exception->seconds);

            return $response;
        }

        return (new Problem(401, 'Email address and password do not fit together.', 'Check both; capitals count in the password.'))->response();
    }
}
