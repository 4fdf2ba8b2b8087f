<?php

declare(strict_types=1);

namespace Sorvel\App\Http;

use Symfony\Component\HttpFoundation\Request;

/** The version that a change was made against. */
final class IfMatch
{
    public static function version(Request $request): int
    {
        $header = (string) $request->headers->get('If-Match');
        if (preg_match('~^(?:W/)?"?(\d{1,9})"?$~', $header, $match) !== 1) {
            throw new Problem(428, 'The request does not say which version it changes.', 'Send the header If-Match with the version that was read, in quotes.');
        }

        return (int) $match[1];
    }
}
