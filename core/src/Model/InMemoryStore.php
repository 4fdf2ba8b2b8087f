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

    public function find(string $id): ?Record
    {
        return $this->records[$id] ?? null;
    }

    public function findMany(array $ids): array
    {
        return array_intersect_key($this->records, array_flip($ids));
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

    public function hold(array $ids): void
    {
    }

    public function save(Record $record): void
    {
        $this->records[$record->id] = $record;
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
