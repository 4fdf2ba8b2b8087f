<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Symfony\Component\HttpFoundation\RequestStack;

/** The token that a page must send with everything that changes something (against forged requests). */
final class Token
{
    public const HEADER = 'X-Sorvel-Token';

    public function __construct(private readonly RequestStack $requests)
    {
    }

    public function value(): string
    {
        $session = $this->requests->getSession();
        $token = $session->get('token');
        if (! is_string($token)) {
            $token = bin2hex(random_bytes(24));
            $session->set('token', $token);
        }

        return $token;
    }

    public function fits(string $given): bool
    {
        $token = $this->requests->getSession()->get('token');

        return is_string($token) && hash_equals($token, $given);
    }
}
