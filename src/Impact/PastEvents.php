<?php

declare(strict_types=1);

namespace Sorvel\App\Impact;

use Doctrine\DBAL\Connection;
use Sorvel\Core\Impact\PastEvent;

/** Events of the past, kept packed: those of the desk itself, and those that were brought in. */
final class PastEvents
{
    public function __construct(private readonly Connection $database)
    {
    }

    /** @param  list<array{PastEvent, int|null}>  $events  each with the number of its run, when there was one */
    public function keep(array $events): void
    {
        foreach (array_chunk($events, 200) as $some) {
            $values = [];
            foreach ($some as [$event, $run]) {
                array_push($values, $run, $event->id, $event->type, (new \DateTimeImmutable($event->at))->setTimezone(new \DateTimeZone('UTC'))->format('Y-m-d H:i:s'), self::packed($event));
            }
            $this->database->executeStatement('INSERT INTO past_event (run, record, type, at, data) VALUES '.implode(', ', array_fill(0, count($some), '(?, ?, ?, ?, ?)')), $values);
        }
    }

    public static function packed(PastEvent $event): string
    {
        return (string) gzdeflate((string) json_encode($event->toArray(), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE), 3);
    }

    public static function unpacked(string $data): PastEvent
    {
        return PastEvent::from((array) json_decode((string) gzinflate($data), true, 512, JSON_THROW_ON_ERROR));
    }

    public function find(int $number): ?PastEvent
    {
        $data = $this->database->fetchOne('SELECT data FROM past_event WHERE id = ?', [$number]);

        return is_string($data) ? self::unpacked($data) : null;
    }

    /** The event behind a run; null for what only followed from another, and for what is older than this book. */
    public function ofRun(int $run): ?PastEvent
    {
        $data = $this->database->fetchOne('SELECT data FROM past_event WHERE run = ? ORDER BY id DESC LIMIT 1', [$run]);

        return is_string($data) ? self::unpacked($data) : null;
    }

    /** @return iterable<int, PastEvent> by number, from one to another, both included */
    public function between(int $from, int $to): iterable
    {
        for ($at = $from; $at <= $to; $at += 200) {
            foreach ($this->database->fetchAllKeyValue('SELECT id, data FROM past_event WHERE id BETWEEN ? AND ? ORDER BY id', [$at, min($to, $at + 199)]) as $id => $data) {
                yield (int) $id => self::unpacked((string) $data);
            }
        }
    }

    public function since(): ?string
    {
        $at = $this->database->fetchOne('SELECT MIN(at) FROM past_event');

        return is_string($at) ? (new \DateTimeImmutable($at, new \DateTimeZone('UTC')))->format(\DATE_ATOM) : null;
    }

    /** @return array{int, int, int} how many there are since a moment, the first and the last number */
    public function extent(?\DateTimeImmutable $since): array
    {
        $row = $this->database->fetchNumeric('SELECT COUNT(*), COALESCE(MIN(id), 0), COALESCE(MAX(id), 0) FROM past_event'.($since === null ? '' : ' WHERE at >= ?'), $since === null ? [] : [$since->format('Y-m-d H:i:s')]) ?: [0, 0, 0];

        return [(int) $row[0], (int) $row[1], (int) $row[2]];
    }
}
