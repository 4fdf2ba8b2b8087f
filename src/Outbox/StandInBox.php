<?php

declare(strict_types=1);

namespace Sorvel\App\Outbox;

use Doctrine\DBAL\Connection;
use Psr\Clock\ClockInterface;

/** Where the stand-ins keep what has reached them; what comes twice with one token is counted and kept once. */
final class StandInBox
{
    public function __construct(private readonly Connection $database, private readonly ClockInterface $clock)
    {
    }

    /**
     * @param  array<string, mixed>  $data
     * @return int how often it has come
     */
    public function take(string $token, string $kind, string $name, array $data): int
    {
        $token = mb_substr($token, 0, 36);
        $this->database->executeStatement('INSERT INTO stand_in_post (token, kind, name, data, at) VALUES (?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE times = times + 1', [$token, $kind, mb_strimwidth($name, 0, 300, '…'), json_encode($data, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE), $this->clock->now()->format('Y-m-d H:i:s')]);
        $times = $this->database->fetchOne('SELECT times FROM stand_in_post WHERE token = ?', [$token]);

        return is_numeric($times) ? (int) $times : 1;
    }
}
