<?php

declare(strict_types=1);

namespace Sorvel\App\Watch;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;

/** Who watches what, and what is new to them. */
final class Watch
{
    public function __construct(private readonly EntityManagerInterface $entities, private readonly Connection $database)
    {
    }

    /** @return list<string> keys of people */
    public function of(string $record): array
    {
        return array_values(array_map(fn (Watcher $w): string => $w->person(), $this->entities->getRepository(Watcher::class)->findBy(['record' => $record], ['person' => 'ASC'])));
    }

    public function begin(string $record, string $person): void
    {
        [$run, $note] = $this->last();
        // twice at once is once
        $this->database->executeStatement('INSERT INTO watcher (record, person, seen_run, seen_note) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE seen_run = VALUES(seen_run)', [$record, $person, $run, $note]);
    }

    public function end(string $record, string $person): void
    {
        $this->database->delete('watcher', ['record' => $record, 'person' => $person]);
    }

    /** They have looked at it. */
    public function seen(string $record, string $person): void
    {
        $this->database->executeStatement('UPDATE watcher SET seen_run = (SELECT COALESCE(MAX(id), 0) FROM run), seen_note = (SELECT COALESCE(MAX(id), 0) FROM note) WHERE record = ? AND person = ?', [$record, $person]);
    }

    /** @return array{int, int} numbers of the last run and the last note of the desk */
    public function last(): array
    {
        return [(int) self::number($this->database->fetchOne('SELECT MAX(id) FROM run')), (int) self::number($this->database->fetchOne('SELECT MAX(id) FROM note'))];
    }

    /**
     * Watched tickets on which somebody else did something since they were last looked at.
     *
     * @return list<array{id: string, name: string, changes: int, notes: int, at: string}> newest first, at most 50
     */
    public function news(string $person): array
    {
        $rows = $this->database->fetchAllAssociative(
            'SELECT w.record AS id, r.name, (SELECT COUNT(*) FROM run u WHERE u.record = w.record AND u.id > w.seen_run AND (u.person IS NULL OR u.person <> w.person)) AS changes,
                (SELECT COUNT(*) FROM note n WHERE n.record = w.record AND n.id > w.seen_note AND (n.person IS NULL OR n.person <> w.person)) AS notes, r.changed_at AS at
             FROM watcher w JOIN record r ON r.id = w.record WHERE w.person = ? HAVING changes > 0 OR notes > 0 ORDER BY at DESC LIMIT 50', [$person]);

        return array_map(fn (array $r): array => ['id' => self::number($r['id']), 'name' => self::number($r['name']), 'changes' => (int) self::number($r['changes']), 'notes' => (int) self::number($r['notes']), 'at' => (new \DateTimeImmutable(self::number($r['at'])))->format(\DATE_ATOM)], $rows);
    }

    /** @return list<string> ids of records that something happened to since, each once */
    public function changed(int $run, int $note): array
    {
        $ids = $this->database->fetchFirstColumn('SELECT record FROM (SELECT record FROM run WHERE id > ? ORDER BY id LIMIT 2000) a UNION SELECT record FROM (SELECT record FROM note WHERE id > ? ORDER BY id LIMIT 2000) b', [$run, $note]);

        return array_map(self::number(...), $ids);
    }

    private static function number(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
