<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** The one class through which every query on records goes. */
final class Records
{
    private const TIME = 'Y-m-d H:i:s';

    public function __construct(private readonly Connection $database)
    {
    }

    public function find(string $id, Rulebook $rulebook, bool $lock = false): ?StoredRecord
    {
        $row = $this->database->fetchAssociative('SELECT * FROM record WHERE id = ?'.($lock ? ' FOR UPDATE' : ''), [$id]);

        return $row === false ? null : $this->stored($row, $rulebook);
    }

    /**
     * @param  list<string>  $ids
     * @return array<string, StoredRecord> those found, by id
     */
    public function findMany(array $ids, Rulebook $rulebook, bool $lock = false): array
    {
        $found = [];
        foreach (array_chunk(array_values(array_unique($ids)), 1000) as $chunk) {
            foreach ($this->database->fetchAllAssociative('SELECT * FROM record WHERE id IN (?)'.($lock ? ' ORDER BY id FOR UPDATE' : ''), [$chunk], [ArrayParameterType::STRING]) as $row) {
                $stored = $this->stored($row, $rulebook);
                $found[$stored->record->id] = $stored;
            }
        }

        return $found;
    }

    /** @return iterable<string> ids of every record of a type, a few hundred read at a time */
    public function ids(string $type): iterable
    {
        $last = '';
        do {
            $ids = array_map(self::string(...), $this->database->fetchFirstColumn('SELECT id FROM record WHERE type = ? AND id > ? ORDER BY id LIMIT 500', [$type, $last]));
            yield from $ids;
            $last = end($ids);
        } while ($last !== false);
    }

    /** @return array<string, int> how many records each type has */
    public function counts(): array
    {
        return array_map(fn (mixed $count): int => (int) self::string($count), $this->database->fetchAllKeyValue('SELECT type, COUNT(*) FROM record GROUP BY type'));
    }

    public function countTickets(): int
    {
        $count = $this->database->fetchOne('SELECT COUNT(*) FROM record WHERE ticket = 1');

        return is_numeric($count) ? (int) $count : 0;
    }

    /** Inside a transaction. */
    public function nextNumber(string $type): int
    {
        $this->database->executeStatement('INSERT INTO record_counter (type, last) VALUES (?, LAST_INSERT_ID(1)) ON DUPLICATE KEY UPDATE last = LAST_INSERT_ID(last + 1)', [$type]);

        return (int) $this->database->lastInsertId();
    }

    public function insert(Record $record, RecordType $type, \DateTimeImmutable $at): StoredRecord
    {
        $this->database->insert('record', ['id' => $record->id, 'version' => 1, 'created_at' => $at->format(self::TIME), ...$this->columns($record, $type, $at)]);
        $this->index($record, $type);

        return new StoredRecord($record, 1, $at, $at);
    }

    /** Inside a transaction that has read the record with a lock. */
    public function update(StoredRecord $old, Record $record, RecordType $type, \DateTimeImmutable $at): StoredRecord
    {
        $this->database->update('record', ['version' => $old->version + 1, ...$this->columns($record, $type, $at)], ['id' => $record->id]);
        $this->database->delete('record_index', ['record' => $record->id]);
        $this->index($record, $type);

        return new StoredRecord($record, $old->version + 1, $old->createdAt, $at);
    }

    /** Every record's value under its new key, or with the option's. Inside a transaction. */
    public function rename(Rename $rename, Rulebook $rulebook): void
    {
        $path = '$.'.$rename->field;
        if ($rename->option === null) {
            $this->database->executeStatement('UPDATE record SET field_values = JSON_REMOVE(JSON_SET(field_values, ?, JSON_EXTRACT(field_values, ?)), ?), version = version + 1 WHERE type = ? AND JSON_EXISTS(field_values, ?)', ['$.'.$rename->to, $path, $path, $rename->type, $path]);
            $this->database->executeStatement('UPDATE record_index SET field = ? WHERE type = ? AND field = ?', [$rename->to, $rename->type, $rename->field]);

            return;
        }
        $ids = $this->database->fetchFirstColumn('SELECT DISTINCT record FROM record_index WHERE type = ? AND field = ? AND text_value = ? FOR UPDATE', [$rename->type, $rename->field, $rename->option]);
        foreach (array_chunk(array_map(self::string(...), $ids), 1000) as $chunk) {
            foreach ($this->findMany($chunk, $rulebook) as $stored) {
                $renamed = json_encode($rename->inStored($stored->record->value($rename->field)), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE);
                $this->database->executeStatement('UPDATE record SET field_values = JSON_SET(field_values, ?, JSON_EXTRACT(?, \'$\')), state = IF(? AND state = ?, ?, state), version = version + 1 WHERE id = ?', [$path, $renamed, $rename->field === 'state' ? 1 : 0, $rename->option, $rename->to, $stored->record->id]);
            }
        }
        $this->database->executeStatement('UPDATE record_index SET text_value = ? WHERE type = ? AND field = ? AND text_value = ?', [$rename->to, $rename->type, $rename->field, $rename->option]);
    }

    /**
     * @param  list<string>  $ids
     * @return list<string> ids of records of the type whose field refers to one of them, in natural order
     */
    public function referring(string $type, string $field, array $ids): array
    {
        $found = [];
        foreach (array_chunk($ids, 1000) as $chunk) {
            array_push($found, ...array_map(self::string(...), $this->database->fetchFirstColumn('SELECT DISTINCT record FROM record_index WHERE type = ? AND field = ? AND text_value IN (?)', [$type, $field, $chunk], [2 => ArrayParameterType::STRING])));
        }
        $found = array_values(array_unique($found));
        sort($found, SORT_NATURAL);

        return $found;
    }

    /** @return list<array{id: string, name: string}> at most 50, by name */
    public function names(string $type, string $words): array
    {
        /** @var list<array{id: string, name: string}> */
        return $this->database->fetchAllAssociative('SELECT id, name FROM record WHERE type = ? AND (LOWER(name) LIKE ? OR id = ?) ORDER BY name, id LIMIT 50', [$type, '%'.self::like(mb_strtolower($words)).'%', $words]);
    }

    /**
     * All records of a type that fit the words, by name, a few hundred at a time; at most 20,000 are gone through.
     *
     * @return iterable<array<string, string>> names by id
     */
    public function namesInPages(string $type, string $words): iterable
    {
        for ($page = 0; $page < 40; $page++) {
            /** @var array<string, string> $names */
            $names = $this->database->fetchAllKeyValue(sprintf('SELECT id, name FROM record WHERE type = ? AND (LOWER(name) LIKE ? OR id = ?) ORDER BY name, id LIMIT 500 OFFSET %d', $page * 500), [$type, '%'.self::like(mb_strtolower($words)).'%', $words]);
            if ($names !== []) {
                yield $names;
            }
            if (count($names) < 500) {
                return;
            }
        }
    }

    /**
     * @param  list<string>  $ids
     * @return array<string, string> by id
     */
    public function namesOf(array $ids): array
    {
        if ($ids === []) {
            return [];
        }

        /** @var array<string, string> */
        return $this->database->fetchAllKeyValue('SELECT id, name FROM record WHERE id IN (?)', [array_values(array_unique($ids))], [ArrayParameterType::STRING]);
    }

    /** @return array{records: list<StoredRecord>, total: int, next: string|null} */
    public function page(RecordQuery $query, Rulebook $rulebook): array
    {
        [$where, $parameters] = $this->where($query, $rulebook);
        $total = $this->database->fetchOne('SELECT COUNT(*) FROM record r WHERE '.$where, $parameters);
        [$join, $order, $joinParameters] = $this->order($query, $rulebook);
        $direction = $query->descending ? 'DESC' : 'ASC';
        if ($query->after !== null) {
            $where .= sprintf(' AND (%1$s %2$s ? OR (%1$s = ? AND r.id %2$s ?))', $order, $query->descending ? '<' : '>');
            array_push($parameters, $query->after[0], $query->after[0], $query->after[1]);
        }
        $sql = sprintf('SELECT r.*, %s AS sort_value FROM record r %s WHERE %s ORDER BY sort_value %s, r.id %s LIMIT %d', $order, $join, $where, $direction, $direction, $query->limit + 1);
        $rows = $this->database->fetchAllAssociative($sql, [...$joinParameters, ...$parameters]);
        $more = count($rows) > $query->limit;
        $rows = array_slice($rows, 0, $query->limit);
        $last = end($rows);

        return [
            'records' => array_map(fn (array $row): StoredRecord => $this->stored($row, $rulebook), $rows),
            'total' => is_numeric($total) ? (int) $total : 0,
            'next' => $more && $last !== false ? RecordQuery::cursor(self::string($last['sort_value']), self::string($last['id'])) : null,
        ];
    }

    /** @return array{string, list<mixed>} */
    private function where(RecordQuery $query, Rulebook $rulebook): array
    {
        $where = ['r.ticket = '.($query->tickets ? 1 : 0)];
        $parameters = [];
        if ($query->type !== null) {
            $where[] = 'r.type = ?';
            $parameters[] = $query->type;
        }
        if ($query->words !== '') {
            $where[] = '(LOWER(r.name) LIKE ? OR LOWER(r.id) = ?)';
            array_push($parameters, '%'.self::like(mb_strtolower($query->words)).'%', mb_strtolower($query->words));
        }
        foreach ($query->filters as $field => $value) {
            if ($field === 'state' && ($value === 'open' || $value === 'closed')) {
                $states = self::states($rulebook, $value === 'open');
                $where[] = '(r.type, r.state) IN ('.implode(', ', array_fill(0, max(1, count($states)), '(?, ?)')).')';
                array_push($parameters, ...($states === [] ? ['', ''] : array_merge(...$states)));
            } elseif ($value === '') {
                $where[] = 'NOT EXISTS (SELECT 1 FROM record_index i WHERE i.record = r.id AND i.field = ?)';
                $parameters[] = $field;
            } else {
                $where[] = 'EXISTS (SELECT 1 FROM record_index i WHERE i.record = r.id AND i.field = ? AND i.text_value = ?)';
                array_push($parameters, $field, $value);
            }
        }

        return [implode(' AND ', $where), $parameters];
    }

    /** @return list<array{string, string}> type and state */
    private static function states(Rulebook $rulebook, bool $open): array
    {
        $states = [];
        foreach ($rulebook->types as $type) {
            foreach ($type->states as $state) {
                if ($state->open === $open) {
                    $states[] = [$type->key, $state->key];
                }
            }
        }

        return $states;
    }

    /** @return array{string, string, list<mixed>} join, an expression that is never null, and the join's parameters */
    private function order(RecordQuery $query, Rulebook $rulebook): array
    {
        if (in_array($query->sort, ['changed_at', 'created_at', 'name'], true) && ($query->sort !== 'name' || ! $query->tickets)) {
            return ['', 'r.'.$query->sort, []];
        }
        if ($query->sort === 'number') {
            return ['', "CONCAT(SUBSTRING_INDEX(r.id, '-', 1), '-', LPAD(SUBSTRING_INDEX(r.id, '-', -1), 12, '0'))", []];
        }
        $field = self::sortField($query, $rulebook);
        if ($field !== null && $field->options !== []) {
            $places = '';
            foreach (array_values(array_map(strval(...), array_keys($field->options))) as $place => $key) {
                $places .= sprintf(' WHEN %s THEN %d', $this->database->quote($key), $place + 1);
            }

            return ['LEFT JOIN record_index s ON s.record = r.id AND s.field = ?', 'CASE s.text_value'.$places.' ELSE 0 END', [$query->sort]];
        }
        if ($field !== null && in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent], true)) {
            return ['LEFT JOIN record_index s ON s.record = r.id AND s.field = ?', 'COALESCE(s.number_value, -1e30)', [$query->sort]];
        }

        return ['LEFT JOIN (SELECT record, MIN(text_value) AS text_value FROM record_index WHERE field = ? GROUP BY record) s ON s.record = r.id', "COALESCE(s.text_value, '')", [$query->sort]];
    }

    private static function sortField(RecordQuery $query, Rulebook $rulebook): ?Field
    {
        foreach ($rulebook->types as $type) {
            if ($type->isTicket === $query->tickets && ($query->type === null || $query->type === $type->key) && isset($type->fields[$query->sort])) {
                return $type->fields[$query->sort];
            }
        }

        return null;
    }

    /** @return array<string, mixed> */
    private function columns(Record $record, RecordType $type, \DateTimeImmutable $at): array
    {
        return [
            'type' => $record->type,
            'ticket' => $type->isTicket ? 1 : 0,
            'name' => $type->nameOf($record),
            'state' => $type->isTicket ? $record->value('state') : null,
            'assignee' => $type->isTicket ? $record->value('assignee') : null,
            'team' => $type->isTicket ? $record->value('team') : null,
            'field_values' => json_encode((object) array_map(fn (mixed $v): mixed => $v instanceof BigDecimal ? Number::text($v) : $v, $record->values), JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR),
            'changed_at' => $at->format(self::TIME),
        ];
    }

    private function index(Record $record, RecordType $type): void
    {
        $rows = [];
        foreach ($record->values as $key => $value) {
            $field = $type->fields[$key] ?? null;
            if ($field === null || $field->type === FieldType::LongText || $field->type === FieldType::RichText) {
                continue;
            }
            foreach (is_array($value) ? $value : [$value] as $one) {
                $number = Number::is($one) && strlen((string) $one) < 30 ? (string) $one : null;
                $text = is_bool($one) ? ($one ? 'true' : 'false') : self::string($one);
                array_push($rows, $record->type, $key, $record->id, mb_substr($text, 0, 190), $number);
            }
        }
        if ($rows !== []) {
            $this->database->executeStatement('INSERT INTO record_index (type, field, record, text_value, number_value) VALUES '.implode(', ', array_fill(0, intdiv(count($rows), 5), '(?, ?, ?, ?, ?)')), $rows);
        }
    }

    /** @param  array<string, mixed>  $row */
    private function stored(array $row, Rulebook $rulebook): StoredRecord
    {
        $values = json_decode(self::string($row['field_values']), true, 64, JSON_THROW_ON_ERROR);
        $type = self::string($row['type']);
        $fields = $rulebook->types[$type]->fields ?? [];
        $known = [];
        foreach (is_array($values) ? $values : [] as $key => $value) {
            $field = $fields[$key] ?? null;
            $isNumber = $field !== null && in_array($field->behavesAs(), [FieldType::Number, FieldType::Percent], true);
            $known[(string) $key] = $isNumber && is_string($value) && is_numeric($value) ? Number::of($value) : $value;
        }

        return new StoredRecord(new Record(self::string($row['id']), $type, $known), (int) self::string($row['version']), new \DateTimeImmutable(self::string($row['created_at'])), new \DateTimeImmutable(self::string($row['changed_at'])));
    }

    private static function string(mixed $value): string
    {
        return is_scalar($value) || $value instanceof \Stringable ? (string) $value : '';
    }

    private static function like(string $words): string
    {
        return addcslashes($words, '\\%_');
    }
}
