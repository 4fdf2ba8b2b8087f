<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;

/** What an event and its follow-ups have come to, over a store that is not written to. */
final class OverlayStore implements RecordStore
{
    /** @var array<string, Record> */
    private array $records = [];

    public function __construct(private readonly RecordStore $under)
    {
    }

    public function find(string $id): ?Record
    {
        return $this->records[$id] ?? $this->under->find($id);
    }

    public function findMany(array $ids): array
    {
        $mine = array_intersect_key($this->records, array_flip($ids));

        return $mine + $this->under->findMany(array_values(array_diff($ids, array_map(strval(...), array_keys($mine)))));
    }

    public function hold(array $ids): void
    {
        $this->under->hold(array_values(array_filter($ids, fn (string $id): bool => ! isset($this->records[$id]))));
    }

    public function save(Record $record): void
    {
        $this->records[$record->id] = $record;
    }

    public function newId(RecordType $type): string
    {
        return $this->under->newId($type);
    }

    public function referring(string $type, string $field, array $ids): array
    {
        $found = array_flip($this->under->referring($type, $field, $ids));
        foreach ($this->records as $id => $record) {
            if ($record->type === $type) {
                unset($found[$id]);
                if (array_intersect((array) $record->value($field), $ids) !== []) {
                    $found[$id] = true;
                }
            }
        }
        $found = array_map(strval(...), array_keys($found));
        sort($found, SORT_NATURAL);

        return $found;
    }
}
