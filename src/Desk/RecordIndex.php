<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Sorvel\Core\Feel\Number;
use Sorvel\Core\Finding\Rename;
use Sorvel\Core\Model\FieldType;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/**
 * Values of records for look-ups, filters and sorting: texts and keys in one narrow table, numbers in another, each
 * found by value and by record. Kept in the transaction that saves the record.
 */
final class RecordIndex
{
    /** @var array<string, int>|null */
    private ?array $words = null;

    public function __construct(private readonly Connection $database)
    {
    }

    /** The small number that stands for a type or a field. */
    public function word(string $word): int
    {
        $this->words ??= $this->read();
        if (isset($this->words[$word])) {
            return $this->words[$word];
        }
        // a transaction may still be rolled back, and a new number with it: then it is not remembered
        if ($this->database->isTransactionActive()) {
            return $this->read()[$word] ?? $this->add($word);
        }
        $this->words = $this->read();

        return $this->words[$word] ??= $this->add($word);
    }

    /** Every type and field of a rulebook has its number before records come. */
    public function prepare(Rulebook $rulebook): void
    {
        foreach ($rulebook->types as $type) {
            $this->word($type->key);
            foreach ($type->fields as $field) {
                $this->word($field->key);
            }
        }
    }

    private function add(string $word): int
    {
        $this->database->executeStatement('INSERT INTO record_word (word) VALUES (?) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)', [$word]);

        return (int) $this->database->lastInsertId();
    }

    /** @param  Record|null  $old  what is indexed already; only what differs is written */
    public function write(int $n, Record $record, RecordType $type, ?Record $old): void
    {
        $this->writeMany([[$n, $record, $type, $old]]);
    }

    /** @param  list<array{int, Record, RecordType, Record|null}>  $changed  as {@see write} takes them */
    public function writeMany(array $changed): void
    {
        [$texts, $numbers] = [[], []];
        foreach ($changed as [$n, $record, $type, $old]) {
            $stale = [];
            $this->entries($n, $record, $type, $old, $texts, $numbers, $stale);
            foreach ($stale === [] ? [] : ['record_text', 'record_number'] as $table) {
                $this->database->executeStatement('DELETE FROM '.$table.' WHERE n = ? AND slot IN (?)', [$n, $stale], [1 => ArrayParameterType::INTEGER]);
            }
        }
        foreach (array_chunk($texts, 5 * 2000) as $some) {
            $this->database->executeStatement('INSERT INTO record_text (n, slot, i, kind, value) VALUES '.implode(', ', array_fill(0, intdiv(count($some), 5), '(?, ?, ?, ?, ?)')), $some);
        }
        foreach (array_chunk($numbers, 4 * 2000) as $some) {
            $this->database->executeStatement('INSERT INTO record_number (n, slot, kind, value) VALUES '.implode(', ', array_fill(0, intdiv(count($some), 4), '(?, ?, ?, ?)')).' ON DUPLICATE KEY UPDATE value = VALUES(value)', $some);
        }
    }

    /**
     * @param  list<int|string>  $texts
     * @param  list<int|float>  $numbers
     * @param  list<int>  $stale  fields whose entries go first
     */
    private function entries(int $n, Record $record, RecordType $type, ?Record $old, array &$texts, array &$numbers, array &$stale): void
    {
        $kind = $this->word($type->key);
        foreach ($type->fields as $key => $field) {
            $value = $record->value($key);
            if ($field->type === FieldType::LongText || $field->type === FieldType::RichText || ($old !== null && Record::same($old->value($key), $value))) {
                continue;
            }
            $slot = $this->word($key);
            if ($old !== null && $old->value($key) !== null && ! (Number::is($old->value($key)) && Number::is($value))) {
                $stale[] = $slot;
            }
            foreach ($value === null ? [] : array_values(is_array($value) ? $value : [$value]) as $i => $one) {
                if (Number::is($one)) {
                    array_push($numbers, $n, $slot, $kind, (float) (string) $one);
                } else {
                    array_push($texts, $n, $slot, $i, $kind, self::said($one));
                }
            }
            if ($key === 'number' && $field->builtIn && is_string($value) && preg_match('~(\d{1,15})$~', $value, $digits) === 1) {
                // tickets sort by the number in their number
                array_push($numbers, $n, $slot, $kind, (float) $digits[1]);
            }
        }
    }

    public function drop(int $n): void
    {
        $this->database->delete('record_text', ['n' => $n]);
        $this->database->delete('record_number', ['n' => $n]);
    }

    public function rename(Rename $rename): void
    {
        [$slot, $kind] = [$this->word($rename->field), $this->word($rename->type)];
        if ($rename->option !== null) {
            $this->database->executeStatement('UPDATE record_text SET value = ? WHERE slot = ? AND kind = ? AND value = ?', [$rename->to, $slot, $kind, $rename->option]);

            return;
        }
        $to = $this->word($rename->to);
        foreach (['record_text', 'record_number'] as $table) {
            $this->database->executeStatement('UPDATE '.$table.' SET slot = ? WHERE slot = ? AND kind = ?', [$to, $slot, $kind]);
        }
    }

    /** A stored value as the index holds it. */
    public static function said(mixed $value): string
    {
        return mb_substr(is_bool($value) ? ($value ? 'true' : 'false') : (is_scalar($value) || $value instanceof \Stringable ? (string) $value : ''), 0, 190);
    }

    /** @return array<string, int> */
    private function read(): array
    {
        $words = [];
        foreach ($this->database->fetchAllKeyValue('SELECT word, id FROM record_word') as $word => $id) {
            $words[(string) $word] = is_numeric($id) ? (int) $id : 0;
        }

        return $words;
    }
}
