<?php

declare(strict_types=1);

namespace Sorvel\App\Machine;

use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\RequestMatcherInterface;

/** Requests of machines: they carry a token in the header Authorization, and have no session. */
final class ByToken implements RequestMatcherInterface
{
    public function matches(Request $request): bool
    {
        return self::carriesOne($request);
    }

    public static function carriesOne(Request $request): bool
    {
        // the stand-ins play somebody else's desk, with credentials of their own
        return str_starts_with($request->getPathInfo(), '/api/') && ! str_starts_with($request->getPathInfo(), '/api/stand-in/') && stripos((string) $request->headers->get('Authorization'), 'Bearer ') === 0;
    }
}
