<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** The one class through which every query on records goes. */
final class Records
{
    /** Where a list is longer, it is only said to be. */
    public const MOST_COUNTED = 1000;

    private const TIME = 'Y-m-d H:i:s';

    public function __construct(private readonly Connection $database, private readonly RecordIndex $index)
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

    /**
     * The next numbers of a type whose ids nobody has, without taking them; nobody else takes them before this transaction ends.
     *
     * @return non-empty-list<int>
     */
    public function freeNumbers(string $type, string $short, int $count): array
    {
        $this->database->executeStatement('INSERT INTO record_counter (type, last) VALUES (?, 0) ON DUPLICATE KEY UPDATE last = last', [$type]);
        $last = (int) self::string($this->database->fetchOne('SELECT last FROM record_counter WHERE type = ? FOR UPDATE', [$type]));
        do {
            $numbers = range($last + 1, $last + $count);
            $taken = $this->database->fetchFirstColumn('SELECT id FROM record WHERE id IN (?)', [array_map(fn (int $n): string => $short.'-'.$n, $numbers)], [ArrayParameterType::STRING]);
            $free = array_values(array_filter($numbers, fn (int $n): bool => ! in_array($short.'-'.$n, $taken, true)));
            $last += $count;
        } while ($free === []);

        return $free;
    }

    public function takeNumber(string $type, int $number): void
    {
        $this->database->executeStatement('UPDATE record_counter SET last = ? WHERE type = ?', [$number, $type]);
    }

    public function insert(Record $record, RecordType $type, \DateTimeImmutable $at): StoredRecord
    {
        return $this->write([[null, $record, $type]], $at)[0];
    }

    /**
     * Inside a transaction that has read the record with a lock.
     *
     * @param  bool  $anew  whether every index entry is written again, since fields have become something else
     */
    public function update(StoredRecord $old, Record $record, RecordType $type, \DateTimeImmutable $at, bool $anew = false): StoredRecord
    {
        if ($anew) {
            $this->index->drop($old->n);
        }

        return $this->write([[$old, $record, $type]], $at, $anew)[0];
    }

    /**
     * Inside a transaction that has read those that are there already with a lock.
     *
     * @param  list<array{StoredRecord|null, Record, RecordType}>  $changed  as the database has each, null for a new one; and as it is now
     * @return list<StoredRecord>
     */
    public function write(array $changed, \DateTimeImmutable $at, bool $anew = false): array
    {
        $new = array_values(array_filter($changed, fn (array $c): bool => $c[0] === null));
        $numbers = [];
        foreach (array_chunk($new, 200) as $some) {
            $rows = array_map(fn (array $c): array => ['id' => $c[1]->id, 'version' => 1, 'created_at' => $at->format(self::TIME), ...$this->columns($c[1], $c[2], $at)], $some);
            $marks = '('.implode(', ', array_fill(0, count($rows[0]), '?')).')';
            $this->database->executeStatement('INSERT INTO record ('.implode(', ', array_keys($rows[0])).') VALUES '.implode(', ', array_fill(0, count($rows), $marks)), array_merge(...array_map(array_values(...), $rows)));
            // the number of the first; those of one statement follow each other, but a database may count in steps
            $numbers += count($some) === 1 ? [$some[0][1]->id => (int) $this->database->lastInsertId()] : $this->numbersOf(array_map(fn (array $c): string => $c[1]->id, $some));
        }
        $old = array_values(array_filter($changed, fn (array $c): bool => $c[0] !== null));
        $isSet = count($old) > 20;
        foreach ($isSet ? array_chunk($old, 200) : [] as $some) {
            $this->updateMany($some, $at);
        }
        [$stored, $entries] = [[], []];
        foreach ($changed as [$old, $record, $type]) {
            $n = $old->n ?? $numbers[$record->id];
            if ($old !== null && ! $isSet) {
                $this->database->update('record', ['version' => $old->version + 1, ...$this->columns($record, $type, $at)], ['id' => $record->id]);
            }
            $entries[] = [$n, $record, $type, $anew ? null : $old?->record];
            $stored[] = new StoredRecord($record, ($old->version ?? 0) + 1, $old->createdAt ?? $at, $at, $n);
        }
        $this->index->writeMany($entries);

        return $stored;
    }

    /** @param  non-empty-list<array{StoredRecord|null, Record, RecordType}>  $some  that are all there */
    private function updateMany(array $some, \DateTimeImmutable $at): void
    {
        $rows = array_map(fn (array $c): array => ['id' => $c[1]->id, 'version' => ($c[0]->version ?? 0) + 1, 'created_at' => $at->format(self::TIME), ...$this->columns($c[1], $c[2], $at)], $some);
        $columns = array_keys($rows[0]);
        $marks = '('.implode(', ', array_fill(0, count($columns), '?')).')';
        $sets = implode(', ', array_map(fn (string $c): string => sprintf('%s = VALUES(%s)', $c, $c), array_diff($columns, ['id', 'created_at'])));
        $this->database->executeStatement('INSERT INTO record ('.implode(', ', $columns).') VALUES '.implode(', ', array_fill(0, count($rows), $marks)).' ON DUPLICATE KEY UPDATE '.$sets, array_merge(...array_map(array_values(...), $rows)));
    }

    /**
     * @param  list<string>  $ids
     * @return array<string, int> by id
     */
    private function numbersOf(array $ids): array
    {
        return array_map(fn (mixed $n): int => (int) self::string($n), $this->database->fetchAllKeyValue('SELECT id, n FROM record WHERE id IN (?)', [$ids], [ArrayParameterType::STRING]));
    }

    /** Inside a transaction. Its runs stay, as the account of what was. */
    public function delete(string $id): void
    {
        $n = $this->database->fetchOne('SELECT n FROM record WHERE id = ?', [$id]);
        if (is_numeric($n)) {
            $this->index->drop((int) $n);
            $this->database->delete('record', ['id' => $id]);
        }
    }

    /**
     * Records of a type by the value of a field; `id` is a field too.
     *
     * @param  list<string>  $values  as {@see RecordIndex::said} gives them
     * @param  int|null  $most  more records are not fetched
     * @return ($most is null ? array<array-key, list<string>> : array<array-key, list<string>>|null) ids by value; null when there are more than that
     */
    public function with(string $type, string $field, array $values, ?int $most = null): ?array
    {
        $found = [];
        $limit = $most === null ? '' : ' LIMIT '.($most + 1);
        if ($values === []) {
            return $found;
        }
        $rows = $field === 'id'
            ? $this->database->fetchAllAssociative('SELECT id AS v, id FROM record WHERE type = ? AND id IN (?)'.$limit, [$type, $values], [1 => ArrayParameterType::STRING])
            : $this->database->fetchAllAssociative('SELECT t.value AS v, r.id FROM record_text t FORCE INDEX (record_text_value) JOIN record r ON r.n = t.n WHERE t.slot = ? AND t.value IN (?) AND t.kind = ?'.$limit, [$this->index->word($field), $values, $this->index->word($type)], [1 => ArrayParameterType::STRING]);
        if ($rows === [] && $field !== 'id') {
            $numbers = array_values(array_filter($values, is_numeric(...)));
            $rows = $numbers === [] ? [] : $this->database->fetchAllAssociative('SELECT t.value AS v, r.id FROM record_number t JOIN record r ON r.n = t.n WHERE t.slot = ? AND t.value IN (?) AND t.kind = ?'.$limit, [$this->index->word($field), $numbers, $this->index->word($type)], [1 => ArrayParameterType::STRING]);
        }
        if ($most !== null && count($rows) > $most) {
            return null;
        }
        foreach ($rows as $row) {
            $found[self::string($row['v'])][] = self::string($row['id']);
        }

        return $found;
    }

    /**
     * Records of a type that meet every condition, found along the index.
     *
     * @param  list<Condition>  $conditions
     * @return list<string> ids in natural order
     */
    public function matching(string $type, array $conditions, ?int $most = null): array
    {
        usort($conditions, fn (Condition $a, Condition $b): int => self::narrowness($b) <=> self::narrowness($a));
        $lead = $conditions[0] ?? null;
        if ($lead !== null && self::narrowness($lead) > 0 && $lead->field !== 'id') {
            // the narrowest leads; the others are asked of each
            [$test, $parameters] = self::valueTest($lead, 'd');
            $table = self::table($lead);
            $sql = sprintf('SELECT DISTINCT r.id FROM %s d FORCE INDEX (%s_value) JOIN record r ON r.n = d.n WHERE d.slot = %d AND d.kind = %d AND %s', $table, $table, $this->index->word($lead->field), $this->index->word($type), $test);
            array_shift($conditions);
        } else {
            [$sql, $parameters] = ['SELECT r.id FROM record r WHERE r.type = ?', [$type]];
        }
        foreach ($conditions as $condition) {
            if ($condition->field === 'id') {
                $test = $condition->test === 'in' ? 'r.id IN ('.implode(', ', array_fill(0, count($condition->values), '?')).')' : '1 = 0';
                $more = $condition->test === 'in' ? array_map(RecordIndex::said(...), $condition->values) : [];
            } elseif ($condition->test === 'empty') {
                $slot = $this->index->word($condition->field);
                [$test, $more] = [sprintf('NOT EXISTS (SELECT 1 FROM record_text t WHERE t.n = r.n AND t.slot = %1$d) AND NOT EXISTS (SELECT 1 FROM record_number m WHERE m.n = r.n AND m.slot = %1$d)', $slot), []];
            } else {
                [$of, $more] = self::valueTest($condition, 't');
                $test = sprintf('EXISTS (SELECT 1 FROM %s t WHERE t.n = r.n AND t.slot = %d AND %s)', self::table($condition), $this->index->word($condition->field), $of);
            }
            $sql .= ' AND '.$test;
            array_push($parameters, ...$more);
        }
        $ids = array_map(self::string(...), $this->database->fetchFirstColumn($sql.($most === null ? '' : ' LIMIT '.$most), $parameters));
        sort($ids, SORT_NATURAL);

        return $ids;
    }

    /** How few a condition is likely to leave; 0 when no index leads to them. */
    private static function narrowness(Condition $condition): int
    {
        return match (true) {
            $condition->field === 'id' => 9,
            $condition->test === 'empty' => 0,
            $condition->test !== 'in' => 1,
            // a state, or a yes or no, leaves many
            $condition->field === 'state' || is_bool($condition->values[0] ?? null) => 2,
            default => 5,
        };
    }

    private static function table(Condition $condition): string
    {
        return Number::is($condition->values[0] ?? null) ? 'record_number' : 'record_text';
    }

    /** @return array{string, list<string|float>} */
    private static function valueTest(Condition $condition, string $of): array
    {
        $values = array_map(fn (mixed $v): string|float => Number::is($v) ? (float) (string) $v : RecordIndex::said($v), $condition->values);

        return $condition->test === 'in'
            ? [$of.'.value IN ('.implode(', ', array_fill(0, count($values), '?')).')', $values]
            : [sprintf('%s.value %s ?', $of, $condition->test), [$values[0]]];
    }

    /** The person of a team who was given something last; with a lock on it where something may be given now. */
    public function lastTurn(string $team, bool $lock): ?string
    {
        if ($lock) {
            $this->database->executeStatement("INSERT IGNORE INTO turn (team, person) VALUES (?, '')", [$team]);
        }
        $person = $this->database->fetchOne('SELECT person FROM turn WHERE team = ?'.($lock ? ' FOR UPDATE' : ''), [$team]);

        return is_string($person) && $person !== '' ? $person : null;
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->database->executeStatement('INSERT INTO turn (team, person) VALUES (?, ?) ON DUPLICATE KEY UPDATE person = VALUES(person)', [$team, $person]);
    }

    /**
     * @param  list<string>  $people
     * @param  array<string, list<string>>  $open  by ticket type, its open states
     * @return array<string, int> how many open tickets each has
     */
    public function loads(array $people, array $open): array
    {
        $loads = array_fill_keys($people, 0);
        foreach ($people === [] ? [] : $open as $type => $states) {
            foreach ($states === [] ? [] : $this->database->fetchAllKeyValue('SELECT assignee, COUNT(*) FROM record WHERE assignee IN (?) AND type = ? AND state IN (?) GROUP BY assignee', [$people, $type, $states], [0 => ArrayParameterType::STRING, 2 => ArrayParameterType::STRING]) as $person => $count) {
                $loads[(string) $person] += (int) self::string($count);
            }
        }

        return $loads;
    }

    /** @return list<string> ids, at most 5 */
    public function named(string $type, string $name): array
    {
        return array_map(self::string(...), $this->database->fetchFirstColumn('SELECT id FROM record WHERE type = ? AND folded = LOWER(LEFT(?, 190)) ORDER BY id LIMIT 5', [$type, $name]));
    }

    /** Every record's value under its new key, or with the option's. Inside a transaction. */
    public function rename(Rename $rename, Rulebook $rulebook): void
    {
        $path = '$.'.$rename->field;
        if ($rename->option === null) {
            $this->database->executeStatement('UPDATE record SET field_values = JSON_REMOVE(JSON_SET(field_values, ?, JSON_EXTRACT(field_values, ?)), ?), version = version + 1 WHERE type = ? AND JSON_EXISTS(field_values, ?)', ['$.'.$rename->to, $path, $path, $rename->type, $path]);
            $this->index->rename($rename);

            return;
        }
        $ids = $this->database->fetchFirstColumn('SELECT DISTINCT r.id FROM record_text t JOIN record r ON r.n = t.n WHERE t.kind = ? AND t.slot = ? AND t.value = ? FOR UPDATE', [$this->index->word($rename->type), $this->index->word($rename->field), $rename->option]);
        foreach (array_chunk(array_map(self::string(...), $ids), 1000) as $chunk) {
            foreach ($this->findMany($chunk, $rulebook) as $stored) {
                $renamed = json_encode($rename->inStored($stored->record->value($rename->field)), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE);
                $this->database->executeStatement('UPDATE record SET field_values = JSON_SET(field_values, ?, JSON_EXTRACT(?, \'$\')), state = IF(? AND state = ?, ?, state), version = version + 1 WHERE id = ?', [$path, $renamed, $rename->field === 'state' ? 1 : 0, $rename->option, $rename->to, $stored->record->id]);
            }
        }
        $this->index->rename($rename);
    }

    /**
     * @param  list<string>  $ids
     * @return list<string> ids of records of the type whose field refers to one of them, in natural order
     */
    public function referring(string $type, string $field, array $ids): array
    {
        $found = [];
        foreach (array_chunk($ids, 1000) as $chunk) {
            array_push($found, ...array_map(self::string(...), $this->database->fetchFirstColumn('SELECT DISTINCT r.id FROM record_text t FORCE INDEX (record_text_value) JOIN record r ON r.n = t.n WHERE t.slot = ? AND t.value IN (?) AND t.kind = ?', [$this->index->word($field), $chunk, $this->index->word($type)], [1 => ArrayParameterType::STRING])));
        }
        $found = array_values(array_unique($found));
        sort($found, SORT_NATURAL);

        return $found;
    }

    /**
     * Records of a type that hold a value, the one changed last first.
     *
     * @param  list<string>|null  $states  only in these; null for any
     * @return array{list<array{id: string, name: string, state: string|null}>, int} the first few, and how many there are
     */
    public function sharing(string $type, string $field, string $value, string $but, ?array $states, int $limit): array
    {
        $from = 'FROM record_text i JOIN record r ON r.n = i.n WHERE i.kind = ? AND i.slot = ? AND i.value = ? AND r.id <> ?'.($states === null ? '' : ' AND r.state IN (?)');
        $parameters = [$this->index->word($type), $this->index->word($field), $value, $but, ...($states === null ? [] : [$states === [] ? [''] : $states])];
        $types = $states === null ? [] : [4 => ArrayParameterType::STRING];
        /** @var list<array{id: string, name: string, state: string|null}> $records */
        $records = $this->database->fetchAllAssociative('SELECT r.id, r.name, r.state '.$from.' ORDER BY r.changed_at DESC, r.id LIMIT '.$limit, $parameters, $types);

        return [$records, count($records) < $limit ? count($records) : (int) self::string($this->database->fetchOne('SELECT COUNT(*) '.$from, $parameters, $types))];
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
    public function page(RecordQuery $query, Rulebook $rulebook, bool $counted = true): array
    {
        $list = new RecordList($this->database, $this->index, $query, $rulebook);
        [$numbers, $next] = $list->page();
        $found = [];
        foreach ($numbers === [] ? [] : $this->database->fetchAllAssociative('SELECT * FROM record WHERE n IN ('.implode(',', $numbers).')') as $row) {
            $found[(int) self::string($row['n'])] = $this->stored($row, $rulebook);
        }

        return [
            'records' => array_values(array_filter(array_map(fn (int $n): ?StoredRecord => $found[$n] ?? null, $numbers))),
            'total' => $counted ? $list->count(self::MOST_COUNTED + 1) : 0,
            'next' => $next,
        ];
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

        return new StoredRecord(new Record(self::string($row['id']), $type, $known), (int) self::string($row['version']), new \DateTimeImmutable(self::string($row['created_at'])), new \DateTimeImmutable(self::string($row['changed_at'])), (int) self::string($row['n']));
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
