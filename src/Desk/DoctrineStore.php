<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;

/** The desk's records as the engine sees them. Made anew for each event, so that what it has read stays as read. */
final class DoctrineStore implements RecordStore
{
    /** @var array<string, StoredRecord|null> */
    private array $read = [];

    public function __construct(private readonly Records $records, private readonly Rulebook $rulebook, private readonly \DateTimeImmutable $now, private readonly bool $writes = true)
    {
    }

    public function find(string $id): ?Record
    {
        return $this->stored($id)?->record;
    }

    public function findMany(array $ids): array
    {
        $missing = array_values(array_filter($ids, fn (string $id): bool => ! array_key_exists($id, $this->read)));
        $this->read += $this->records->findMany($missing, $this->rulebook);
        $found = [];
        foreach ($ids as $id) {
            $this->read += [$id => null];
            if ($this->read[$id] !== null) {
                $found[$id] = $this->read[$id]->record;
            }
        }

        return $found;
    }

    public function referring(string $type, string $field, array $ids): array
    {
        return $this->records->referring($type, $field, $ids);
    }

    public function hold(array $ids): void
    {
        if ($this->writes && $ids !== []) {
            $this->read = $this->records->findMany($ids, $this->rulebook, lock: true) + $this->read;
        }
    }

    public function save(Record $record): void
    {
        $type = $this->rulebook->types[$record->type];
        $old = $this->stored($record->id);
        $this->read[$record->id] = $old === null
            ? $this->records->insert($record, $type, $this->now)
            : $this->records->update($old, $record, $type, $this->now);
    }

    public function newId(RecordType $type): string
    {
        do {
            $id = ($type->short ?? strtoupper($type->key)).'-'.$this->records->nextNumber($type->key);
        } while ($this->stored($id) !== null);

        return $id;
    }

    /** The record with a lock on it until the transaction ends. */
    public function lock(string $id): ?StoredRecord
    {
        return $this->read[$id] = $this->records->find($id, $this->rulebook, lock: true);
    }

    public function stored(string $id): ?StoredRecord
    {
        if (! array_key_exists($id, $this->read)) {
            $this->read[$id] = $this->records->find($id, $this->rulebook);
        }

        return $this->read[$id];
    }
}
