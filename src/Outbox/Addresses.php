<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Doctrine\DBAL\Connection;
use Sorvel\App\Http\Problem;
use Sorvel\App\Outside\Secrets;

/** Where rules may call. What is not listed is not called. */
final class Addresses
{
    public function __construct(private readonly Connection $database, private readonly Secrets $secrets)
    {
    }

    /** @return list<Address> */
    public function all(): array
    {
        return array_map(fn (array $r): Address => new Address((int) self::text($r['id']), self::text($r['address']), (bool) $r['inside'], (bool) $r['stand_in'], isset($r['credentials']) ? self::text($r['credentials']) : null), $this->database->fetchAllAssociative('SELECT * FROM allowed_address ORDER BY address'));
    }

    /** The narrowest that covers an endpoint. */
    public function allowing(string $endpoint): ?Address
    {
        $covering = array_filter($this->all(), fn (Address $a): bool => $a->covers($endpoint));
        usort($covering, fn (Address $a, Address $b): int => strlen($b->address) <=> strlen($a->address));

        return $covering[0] ?? null;
    }

    public function allow(string $address, bool $mayBeInside, bool $isStandIn, ?string $credentials): void
    {
        if (Address::parts($address) === null || strlen($address) > 300 || str_contains($address, '?')) {
            throw new Problem(422, 'This address was not allowed.', '', [['pointer' => '/address', 'detail' => 'It must be an http or https address without a name, a query or a way up; an example is https://yard.example/orders.']]);
        }
        if ($credentials !== null && preg_match('~[\r\n]~', $credentials) === 1) {
            throw new Problem(422, 'This address was not allowed.', '', [['pointer' => '/credentials', 'detail' => 'It must be one line, as the header Authorization takes it.']]);
        }
        $this->database->executeStatement('INSERT INTO allowed_address (address, inside, stand_in, credentials) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE inside = VALUES(inside), stand_in = VALUES(stand_in), credentials = COALESCE(VALUES(credentials), credentials)', [rtrim($address, '/'), $mayBeInside ? 1 : 0, $isStandIn ? 1 : 0, $credentials === null || $credentials === '' ? null : $this->secrets->encrypt($credentials)]);
    }

    public function forbid(int $id): void
    {
        $this->database->delete('allowed_address', ['id' => $id]) > 0 || throw new Problem(404, sprintf('There is no allowed address %d.', $id));
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
