<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Doctrine\DBAL\Connection;

/** The rows of imports. A fate is create, update, same or refused; done is 0 not yet, 1 done, 2 undone, 3 kept when undone. */
final class ImportRows
{
    public const MOST = 100_000;

    public function __construct(private readonly Connection $database)
    {
    }

    /**
     * @param  iterable<int, list<mixed>|string>  $rows  cells by number, or why a row cannot be read
     * @return int how many there are
     */
    public function keep(int $import, iterable $rows): int
    {
        $count = 0;
        $batch = [];
        foreach ($rows as $number => $cells) {
            if (++$count > self::MOST) {
                throw new ImportError(sprintf('The file has more than %s rows.', number_format(self::MOST)), 'Part it into several files and import one after the other.');
            }
            array_push($batch, $import, $number, is_string($cells) ? '[]' : json_encode($cells, JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR), is_string($cells) ? 'refused' : null, json_encode(is_string($cells) ? [$cells] : []), is_string($cells) ? 1 : 0);
            if (count($batch) >= 3000) {
                $this->insert($batch);
                $batch = [];
            }
        }
        $this->insert($batch);

        return $count;
    }

    /** @param  list<mixed>  $batch */
    private function insert(array $batch): void
    {
        if ($batch !== []) {
            $this->database->executeStatement('INSERT INTO import_row (import, number, cells, fate, reasons, unreadable) VALUES '.implode(', ', array_fill(0, intdiv(count($batch), 6), '(?, ?, ?, ?, ?, ?)')), $batch);
        }
    }

    public function forget(int $import): void
    {
        $this->database->executeStatement('UPDATE import_row SET fate = NULL, reasons = \'[]\', record = NULL WHERE import = ? AND unreadable = 0 AND done = 0', [$import]);
    }

    /** @return list<array{number: int, cells: list<mixed>}> the next rows that nothing has been made of */
    public function next(int $import, int $after, int $limit, bool $isTrial): array
    {
        $rows = $this->database->fetchAllAssociative('SELECT number, cells FROM import_row WHERE import = ? AND number > ? AND unreadable = 0 AND '.($isTrial ? 'fate IS NULL' : 'done = 0').' ORDER BY number LIMIT '.$limit, [$import, $after]);

        return array_map(fn (array $r): array => ['number' => (int) self::text($r['number']), 'cells' => array_values((array) json_decode(self::text($r['cells']), true))], $rows);
    }

    /** @param  list<RowFate>  $fates */
    public function become(int $import, array $fates): void
    {
        if ($fates === []) {
            return;
        }
        $parameters = [];
        foreach ($fates as $fate) {
            array_push($parameters, $import, $fate->number, $fate->fate, json_encode($fate->reasons, JSON_UNESCAPED_UNICODE), $fate->record, $fate->done ? 1 : 0, $fate->undo === null ? null : json_encode($fate->undo, JSON_UNESCAPED_UNICODE));
        }
        // the rows are there: this is an update of many at once
        $this->database->executeStatement('INSERT INTO import_row (import, number, fate, reasons, record, done, way_back, cells) VALUES '.implode(', ', array_fill(0, count($fates), "(?, ?, ?, ?, ?, ?, ?, '')")).' ON DUPLICATE KEY UPDATE fate = VALUES(fate), reasons = VALUES(reasons), record = VALUES(record), done = VALUES(done), way_back = VALUES(way_back)', $parameters);
    }

    /** @return list<array{number: int, fate: string, record: string, undo: array<string, mixed>}> last first */
    public function toUndo(int $import, int $limit): array
    {
        $rows = $this->database->fetchAllAssociative("SELECT number, fate, record, way_back FROM import_row WHERE import = ? AND done = 1 AND fate IN ('create', 'update') ORDER BY number DESC LIMIT ".$limit, [$import]);

        return array_map(fn (array $r): array => ['number' => (int) self::text($r['number']), 'fate' => self::text($r['fate']), 'record' => self::text($r['record']), 'undo' => (array) json_decode(self::text($r['way_back']), true)], $rows);
    }

    public function undone(int $import, int $number, bool $kept, string $reason): void
    {
        $this->database->update('import_row', ['done' => $kept ? 3 : 2, 'reasons' => json_encode($reason === '' ? [] : [$reason], JSON_UNESCAPED_UNICODE)], ['import' => $import, 'number' => $number]);
    }

    /** @return array<string, int> how many rows have each fate, and how many are left, done, undone and kept */
    public function counts(int $import): array
    {
        $counts = ['create' => 0, 'update' => 0, 'same' => 0, 'refused' => 0, 'left' => 0, 'done' => 0, 'undone' => 0, 'kept' => 0];
        foreach ($this->database->fetchAllAssociative('SELECT fate, done, unreadable, COUNT(*) AS n FROM import_row WHERE import = ? GROUP BY fate, done, unreadable', [$import]) as $row) {
            $n = (int) self::text($row['n']);
            $fate = self::text($row['fate']);
            $counts[$fate === '' ? 'left' : $fate] += $n;
            $done = (int) self::text($row['done']);
            if ($done > 0 || (int) self::text($row['unreadable']) === 1) {
                $counts['done'] += $n;
            }
            if ($done > 1) {
                $counts[$done === 2 ? 'undone' : 'kept'] += $n;
            }
        }

        return $counts;
    }

    /** @return list<array<string, mixed>> as the API shows them */
    public function page(int $import, ?string $fate, int $after, int $limit): array
    {
        $where = match ($fate) {
            null => '', 'kept' => ' AND done = 3', default => ' AND fate = ?'
        };
        $rows = $this->database->fetchAllAssociative('SELECT number, cells, fate, reasons, record, done FROM import_row WHERE import = ? AND number > ?'.$where.' ORDER BY number LIMIT '.$limit, [$import, $after, ...($fate === null || $fate === 'kept' ? [] : [$fate])]);

        return array_map(fn (array $r): array => ['number' => (int) self::text($r['number']), 'cells' => json_decode(self::text($r['cells']), true), 'fate' => $r['fate'], 'reasons' => json_decode(self::text($r['reasons']), true), 'record' => $r['record'], 'done' => (int) self::text($r['done'])], $rows);
    }

    private static function text(mixed $value): string
    {
        return is_scalar($value) ? (string) $value : '';
    }
}
