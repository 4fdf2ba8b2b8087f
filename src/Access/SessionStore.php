<?php

declare(strict_types=1);

namespace Sorvel\App\Access;

use Doctrine\DBAL\Connection;
use Symfony\Component\HttpFoundation\Session\Storage\Handler\PdoSessionHandler;

/** Sessions live in the database, so that any of several web machines can answer. */
final class SessionStore
{
    public static function handler(Connection $connection): PdoSessionHandler
    {
        $pdo = $connection->getNativeConnection();
        if (! $pdo instanceof \PDO) {
            throw new \LogicException('The database connection is not a PDO one.');
        }

        // no lock: a session holds who is signed in and one token, and nothing that two requests write at once
        return new PdoSessionHandler($pdo, ['db_table' => 'session', 'db_id_col' => 'id', 'db_data_col' => 'data', 'db_lifetime_col' => 'lifetime', 'db_time_col' => 'time', 'lock_mode' => PdoSessionHandler::LOCK_NONE]);
    }
}
