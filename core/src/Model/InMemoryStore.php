<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/**
 * Records in an array; ids count up from 1 for each type. It counts how often a database would have been asked: each
 * search, and each record read by its id for the first time since {@see anew}.
 */
final class InMemoryStore implements RecordStore
{
    /** @var array<string, Record> */
    private array $records = [];

    private readonly FieldIndex $index;

    /** @var array<string, int> */
    private array $last = [];

    /** @var array<string, string> person by team */
    private array $turns = [];

    /** @var array<string, true> records read by id since the last event began */
    private array $read = [];

    private int $queries = 0;

    public function __construct()
    {
        $this->index = new FieldIndex;
    }

    /** Another event begins: what was read for the one before has to be read again. */
    public function anew(): void
    {
        $this->read = [];
    }

    public function queries(): int
    {
        return $this->queries;
    }

    public function find(string $id): ?Record
    {
        if (! isset($this->read[$id])) {
            $this->read[$id] = true;
            $this->queries++;
        }

        return $this->records[$id] ?? null;
    }

    public function findMany(array $ids): array
    {
        $found = [];
        $isNew = false;
        foreach ($ids as $id) {
            $isNew = $isNew || ! isset($this->read[$id]);
            $this->read[$id] = true;
            if (isset($this->records[$id])) {
                $found[$id] = $this->records[$id];
            }
        }
        $this->queries += $isNew ? 1 : 0;

        return $found;
    }

    public function peek(array $ids): iterable
    {
        return $this->findMany($ids);
    }

    public function referring(string $type, string $field, array $ids): array
    {
        $this->queries++;
        $found = $this->index->holding($this->records, $type, $field, $ids);
        $found = array_map(strval(...), array_keys($found));
        sort($found, SORT_NATURAL);

        return $found;
    }

    public function matching(string $type, array $conditions): array
    {
        $this->queries++;
        $found = $this->index->matching($this->records, $type, $conditions);
        count($found) < 2 || sort($found, SORT_NATURAL);

        return $found;
    }

    public function foresee(string $type, string $field, array $values): void
    {
    }

    public function lastTurn(string $team): ?string
    {
        $this->queries++;

        return $this->turns[$team] ?? null;
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->turns[$team] = $person;
    }

    public function loads(array $people, array $open): array
    {
        $this->queries++;
        $loads = array_fill_keys($people, 0);
        foreach ($this->records as $record) {
            $assignee = $record->value('assignee');
            if (is_string($assignee) && isset($loads[$assignee]) && in_array($record->value('state'), $open[$record->type] ?? [], true)) {
                $loads[$assignee]++;
            }
        }

        return $loads;
    }

    public function named(RecordType $type, string $name): array
    {
        $this->queries++;
        $lower = mb_strtolower($name);
        $found = array_filter($this->records, fn (Record $r): bool => $r->type === $type->key && mb_strtolower($type->nameOf($r)) === $lower);

        return array_slice(array_map(strval(...), array_keys($found)), 0, 5);
    }

    public function hold(array $ids): void
    {
    }

    public function save(Record $record): void
    {
        $this->index->forget($this->records[$record->id] ?? null);
        $this->records[$record->id] = $record;
        $this->index->note($record);
    }

    public function delete(string $id): void
    {
        $this->index->forget($this->records[$id] ?? null);
        unset($this->records[$id]);
    }

    public function newId(RecordType $type): string
    {
        do {
            $this->last[$type->key] = ($this->last[$type->key] ?? 0) + 1;
            $id = ($type->short ?? strtoupper($type->key)).'-'.$this->last[$type->key];
        } while (isset($this->records[$id]));

        return $id;
    }
}
