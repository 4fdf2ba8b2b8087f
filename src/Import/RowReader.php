<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Sorvel\App\Desk\RecordIndex;
use Sorvel\App\Desk\Records;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;

/** Cells to values, and to the record that a row is about. */
final class RowReader
{
    private readonly RecordType $type;

    /** @var array<array-key, list<string>> ids by key */
    private array $found = [];

    /** @var array<string, int> numbers of rows by their key */
    private array $seen = [];

    public function __construct(private readonly Import $import, private readonly Rulebook $rulebook, private readonly Records $records)
    {
        $this->type = $rulebook->types[$import->type()] ?? throw new \RuntimeException('The type is gone.');
    }

    /**
     * Looks up, as a set, which records some rows are about.
     *
     * @param  list<array{number: int, cells: list<mixed>}>  $rows
     * @return list<string> ids of records that are there already
     */
    public function begin(array $rows, RecordStore $store): array
    {
        $key = $this->import->key();
        if ($key === null) {
            return [];
        }
        $viewer = new Viewer($this->rulebook, $store);
        $keys = array_map(fn (array $row): ?string => $this->key($row['cells'], $viewer), $rows);
        $this->found = $this->records->with($this->type->key, $key, array_values(array_filter($keys, is_string(...))));

        return array_values(array_unique(array_merge(...array_values($this->found))));
    }

    /**
     * One row after the other, so that it may refer to what the one before has made.
     *
     * @param  array{number: int, cells: list<mixed>}  $row
     */
    public function read(array $row, RecordStore $store): ReadRow
    {
        $viewer = new Viewer($this->rulebook, $store);
        [$values, $reasons] = $this->values($row['cells'], $viewer);

        return $this->row($values, $reasons, $this->key($row['cells'], $viewer), $row['number'], $store);
    }

    /** @param  list<mixed>  $cells */
    private function key(array $cells, Viewer $viewer): ?string
    {
        $key = (string) $this->import->key();
        $column = array_search($key, $this->import->matching(), true);
        $cell = $cells[array_search($column, $this->import->columns(), true) ?: 0] ?? null;
        if ($column === false || Record::isEmpty($cell)) {
            return null;
        }
        if ($key === 'id') {
            return is_scalar($cell) ? (string) $cell : null;
        }
        $field = $this->type->fields[$key] ?? null;
        try {
            return $field === null ? null : RecordIndex::said(Record::plain($field->kind->fit(is_string($cell) ? $field->kind->read($cell, $field, $viewer) : $cell, $field, $viewer, byRule: false)));
        } catch (Misfit) {
            return null;
        }
    }

    /**
     * @param  list<mixed>  $cells
     * @return array{array<string, mixed>, list<string>} values, and what is wrong
     */
    private function values(array $cells, Viewer $viewer): array
    {
        $values = [];
        $reasons = [];
        $columns = array_flip($this->import->columns());
        foreach ($this->import->matching() as $column => $name) {
            $cell = $cells[$columns[$column] ?? -1] ?? null;
            if (Record::isEmpty($cell)) {
                continue;
            }
            if ($name === 'id') {
                $id = is_scalar($cell) ? (string) $cell : '';
                if (preg_match('~^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$~', $id) !== 1) {
                    $reasons[] = sprintf('%s: "%s" is not an id: letters, digits, - and _, at most 40.', $column, mb_strimwidth($id, 0, 40, '…'));
                }

                continue;
            }
            $field = $this->type->fields[$name] ?? null;
            if ($field === null) {
                $reasons[] = sprintf('%s: there is no field "%s" any more.', $column, $name);

                continue;
            }
            try {
                $values[$name] = is_string($cell) ? $field->kind->read($cell, $field, $viewer) : $cell;
            } catch (Misfit $misfit) {
                $reasons[] = $field->label.': '.$misfit->getMessage();
            }
        }

        return [array_map(Record::plain(...), $values), $reasons];
    }

    /**
     * @param  array<string, mixed>  $values
     * @param  list<string>  $reasons
     */
    private function row(array $values, array $reasons, ?string $key, int $number, RecordStore $store): ReadRow
    {
        $by = $this->import->key();
        if ($by === null) {
            return new ReadRow($number, 'create', null, $values, $reasons);
        }
        if ($key === null) {
            return new ReadRow($number, 'create', null, $values, $reasons !== [] || $by === 'id' || isset($values[$by]) ? $reasons : [sprintf('%s is empty, so nothing says which record this is.', $this->type->fields[$by]->label)]);
        }
        // rows are read once to foresee what they need, and again when a chunk is done once more
        if (($this->seen[$key] ?? $number) !== $number) {
            $reasons[] = sprintf('"%s" is the key of row %d too.', mb_strimwidth($key, 0, 60, '…'), $this->seen[$key]);
        }
        $this->seen[$key] ??= $number;
        $ids = $this->found[$key] ?? [];
        if (count($ids) > 1) {
            $reasons[] = sprintf('%d records have the key "%s": %s.', count($ids), mb_strimwidth($key, 0, 60, '…'), implode(', ', array_slice($ids, 0, 5)));
        }
        if ($ids !== []) {
            return new ReadRow($number, 'update', $ids[0], $values, $reasons);
        }
        if ($by === 'id' && $reasons === [] && $store->find($key) !== null) {
            $reasons[] = sprintf('"%s" is the id of another type of record.', $key);
        }

        return new ReadRow($number, 'create', $by === 'id' ? $key : null, $values, $reasons);
    }
}
