<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** Records in an array; ids count up from 1 for each type. */
final class InMemoryStore implements RecordStore
{
    /** @var array<string, Record> */
    private array $records = [];

    /** @var array<string, int> */
    private array $last = [];

    /** @var array<string, string> person by team */
    private array $turns = [];

    public function find(string $id): ?Record
    {
        return $this->records[$id] ?? null;
    }

    public function findMany(array $ids): array
    {
        $found = [];
        foreach ($ids as $id) {
            if (isset($this->records[$id])) {
                $found[$id] = $this->records[$id];
            }
        }

        return $found;
    }

    public function peek(array $ids): iterable
    {
        return $this->findMany($ids);
    }

    public function referring(string $type, string $field, array $ids): array
    {
        $found = [];
        foreach ($this->records as $record) {
            if ($record->type === $type && array_intersect((array) $record->value($field), $ids) !== []) {
                $found[] = $record->id;
            }
        }
        sort($found, SORT_NATURAL);

        return $found;
    }

    public function matching(string $type, array $conditions): array
    {
        $found = [];
        foreach ($this->records as $record) {
            if ($record->type === $type && array_filter($conditions, fn (Condition $c): bool => ! $c->holds($record)) === []) {
                $found[] = $record->id;
            }
        }
        sort($found, SORT_NATURAL);

        return $found;
    }

    public function foresee(string $type, string $field, array $values): void
    {
    }

    public function lastTurn(string $team): ?string
    {
        return $this->turns[$team] ?? null;
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->turns[$team] = $person;
    }

    public function loads(array $people, array $open): array
    {
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
        $lower = mb_strtolower($name);
        $found = array_filter($this->records, fn (Record $r): bool => $r->type === $type->key && mb_strtolower($type->nameOf($r)) === $lower);

        return array_slice(array_map(strval(...), array_keys($found)), 0, 5);
    }

    public function hold(array $ids): void
    {
    }

    public function save(Record $record): void
    {
        $this->records[$record->id] = $record;
    }

    public function delete(string $id): void
    {
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
