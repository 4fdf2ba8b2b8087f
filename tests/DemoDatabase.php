<?php

declare(strict_types=1);

namespace Sorvel\Tests;

/** The demo desk as it was when loaded, put back before each test class. bin/sorvel test sets the environment. */
final class DemoDatabase
{
    public static function restore(): void
    {
        for ($try = 1; ; $try++) {
            $error = self::putBack();
            if ($error === null) {
                return;
            }
            // a worker that is still at something may write in between; it is done soon
            if ($try === 4) {
                throw new \RuntimeException('The demo database could not be put back: '.substr($error, -500));
            }
            usleep(500_000);
        }
    }

    /** @return string|null what went wrong */
    private static function putBack(): ?string
    {
        $url = parse_url((string) getenv('DATABASE_URL'));
        parse_str($url['query'] ?? '', $query);
        $process = proc_open(
            ['mariadb', '--no-defaults', '-usorvel', '-S', is_string($query['unix_socket'] ?? null) ? $query['unix_socket'] : '', 'sorvel'],
            [0 => ['file', (string) getenv('SORVEL_DUMP'), 'r'], 2 => ['pipe', 'w']], $pipes, null, [...getenv(), 'MYSQL_PWD' => $url['pass'] ?? ''],
        );
        if ($process === false) {
            return 'the client could not be started';
        }
        $error = (string) stream_get_contents($pipes[2]);
        $code = proc_close($process);

        return $error === '' && $code === 0 ? null : $error.' (exit '.$code.')';
    }

    /** Straight to the database, for what no request can do. */
    public static function connection(): \PDO
    {
        $url = parse_url((string) getenv('DATABASE_URL'));
        parse_str($url['query'] ?? '', $query);

        return new \PDO('mysql:dbname=sorvel;unix_socket='.(is_string($query['unix_socket'] ?? null) ? $query['unix_socket'] : ''), 'sorvel', $url['pass'] ?? '', [\PDO::ATTR_ERRMODE => \PDO::ERRMODE_EXCEPTION]);
    }
}
