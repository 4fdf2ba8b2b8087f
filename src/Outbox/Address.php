<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

/** An address that an administrator allows calls to: it, and everything below it. */
final class Address
{
    public function __construct(public readonly int $id, public readonly string $address, public readonly bool $mayBeInside, public readonly bool $isStandIn, public readonly ?string $credentials)
    {
    }

    public function covers(string $endpoint): bool
    {
        [$mine, $theirs] = [self::parts($this->address), self::parts($endpoint)];

        return $mine !== null && $theirs !== null && $mine[0] === $theirs[0] && ($mine[1] === '' || $theirs[1] === $mine[1] || str_starts_with($theirs[1], $mine[1].'/') || str_starts_with($theirs[1], $mine[1].'?'));
    }

    /** @return array{string, string}|null scheme, host and port; path with query, without slashes at its end */
    public static function parts(string $address): ?array
    {
        $parts = parse_url($address);
        $scheme = strtolower(is_array($parts) ? $parts['scheme'] ?? '' : '');
        if (! is_array($parts) || ! in_array($scheme, ['http', 'https'], true) || ! isset($parts['host']) || isset($parts['user']) || str_contains($address, '\\')) {
            return null;
        }
        $path = $parts['path'] ?? '';
        if (preg_match('~(^|/)\.\.?(/|$)|%2e|%2f~i', $path) === 1) {
            // a way up would lead out of what is allowed
            return null;
        }

        return [sprintf('%s://%s:%d', $scheme, strtolower($parts['host']), $parts['port'] ?? ($scheme === 'https' ? 443 : 80)), rtrim($path, '/').(isset($parts['query']) ? '?'.$parts['query'] : '')];
    }
}
