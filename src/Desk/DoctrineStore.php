<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\StoreFailure;

/** The desk's records as the engine sees them. Made anew for each event, so that what it has read stays as read. */
final class DoctrineStore implements RecordStore
{
    /** So many numbers are looked at in one query */
    private const BLOCK = 100;

    /** @var array<string, StoredRecord|null> */
    private array $read = [];

    /** @var array<string, list<int>> numbers that nobody has, by type */
    private array $free = [];

    /** Look-ups of more values, or of more records, are asked one by one */
    private const MOST_FORESEEN = 5000;

    /** @var array<string, array<string, array<string, list<string>>>> ids by type, field and value, fetched as a set */
    private array $buckets = [];

    /** @var array<string, string|null> who was given the last turn, by team */
    private array $turns = [];

    /** @var array<string, int> the last number given, by type; not yet in the database */
    private array $taken = [];

    /** How many records have been made that will not be kept. */
    private int $unreal = 0;

    /** @var array<string, StoredRecord|null> as the database has them: records that were saved and are not written yet */
    private array $pending = [];

    /** @param  bool  $buffered  whether what is saved waits for {@see flush}, so that a record which many events touch is written once */
    public function __construct(private readonly Records $records, private readonly Rulebook $rulebook, private readonly \DateTimeImmutable $now, private readonly bool $writes = true, private readonly bool $buffered = false)
    {
    }

    /**
     * A failure of the database is the end of everything on this store, and not the engine's to get over.
     *
     * @template T
     *
     * @param  \Closure(): T  $question
     * @return T
     */
    private function ask(\Closure $question): mixed
    {
        try {
            return $question();
        } catch (\Doctrine\DBAL\Exception $failure) {
            throw new StoreFailure($failure);
        }
    }

    /** Writes what has been saved. */
    public function flush(): void
    {
        $changed = [];
        foreach ($this->pending as $id => $was) {
            $record = $this->read[$id]?->record;
            if ($record !== null) {
                $changed[] = [$was, $record, $this->rulebook->types[$record->type]];
            }
        }
        foreach ($changed === [] ? [] : $this->ask(fn () => $this->records->write($changed, $this->now)) as $stored) {
            $this->read[$stored->record->id] = $stored;
            // what was fetched as a set no longer knows of it
            unset($this->buckets[$stored->record->type]);
        }
        $this->pending = [];
        foreach ($this->taken as $type => $number) {
            $this->ask(fn () => $this->records->takeNumber($type, $number));
        }
        $this->taken = [];
        $this->free = [];
    }

    public function find(string $id): ?Record
    {
        return $this->stored($id)?->record;
    }

    public function findMany(array $ids): array
    {
        $missing = array_values(array_filter($ids, fn (string $id): bool => ! array_key_exists($id, $this->read)));
        $this->read += $this->ask(fn () => $this->records->findMany($missing, $this->rulebook));
        $found = [];
        foreach ($ids as $id) {
            $this->read += [$id => null];
            if ($this->read[$id] !== null) {
                $found[$id] = $this->read[$id]->record;
            }
        }

        return $found;
    }

    public function peek(array $ids): iterable
    {
        $unread = [];
        foreach ($ids as $id) {
            if (! array_key_exists($id, $this->read)) {
                $unread[] = $id;
            } elseif ($this->read[$id] !== null) {
                yield $this->read[$id]->record;
            }
        }
        foreach (array_chunk($unread, 500) as $chunk) {
            foreach ($this->ask(fn () => $this->records->findMany($chunk, $this->rulebook)) as $stored) {
                yield $stored->record;
            }
        }
    }

    public function referring(string $type, string $field, array $ids): array
    {
        return $this->withPending(
            $this->ask(fn () => $this->records->referring($type, $field, $ids)),
            fn (Record $r): bool => $r->type === $type && array_intersect((array) $r->value($field), $ids) !== [],
        );
    }

    /**
     * @param  list<string>  $found  ids in the database
     * @param  \Closure(Record): bool  $fits
     * @return list<string> with what waits to be written as it is now, in natural order
     */
    private function withPending(array $found, \Closure $fits): array
    {
        if ($this->pending === []) {
            return $found;
        }
        $found = array_values(array_filter($found, fn (string $id): bool => ! array_key_exists($id, $this->pending)));
        foreach (array_keys($this->pending) as $id) {
            $record = $this->read[$id]?->record;
            if ($record !== null && $fits($record)) {
                $found[] = (string) $id;
            }
        }
        sort($found, SORT_NATURAL);

        return $found;
    }

    public function matching(string $type, array $conditions): array
    {
        $found = $this->foreseen($type, $conditions) ?? $this->ask(fn () => $this->records->matching($type, $conditions));

        return $this->withPending($found, fn (Record $r): bool => $r->type === $type && array_filter($conditions, fn (Condition $c): bool => ! $c->holds($r)) === []);
    }

    /**
     * @param  list<Condition>  $conditions
     * @return list<string>|null null when it has not been foreseen
     */
    private function foreseen(string $type, array $conditions): ?array
    {
        foreach ($conditions as $condition) {
            $known = $condition->test === 'in' && isset($this->buckets[$type][$condition->field]) ? array_map(fn (mixed $v): ?array => $this->buckets[$type][$condition->field][RecordIndex::said($v)] ?? null, $condition->values) : [null];
            if (in_array(null, $known, true)) {
                continue;
            }
            $ids = array_values(array_unique(array_merge(...array_values(array_filter($known, is_array(...))), ...[[]])));
            $records = $this->findMany($ids);
            $ids = array_values(array_filter($ids, fn (string $id): bool => isset($records[$id]) && array_filter($conditions, fn (Condition $c): bool => ! $c->holds($records[$id])) === []));
            sort($ids, SORT_NATURAL);

            return $ids;
        }

        return null;
    }

    public function foresee(string $type, string $field, array $values): void
    {
        $values = array_values(array_unique(array_map(RecordIndex::said(...), $values)));
        $unknown = array_values(array_filter($values, fn (string $v): bool => ! isset($this->buckets[$type][$field][$v])));
        if ($unknown === [] || count($unknown) > self::MOST_FORESEEN) {
            return;
        }
        $found = $this->ask(fn () => $this->records->with($type, $field, $unknown, self::MOST_FORESEEN));
        if ($found === null) {
            return;
        }
        $ids = [];
        foreach ($unknown as $value) {
            $this->buckets[$type][$field][$value] = $found[$value] ?? [];
            array_push($ids, ...$found[$value] ?? []);
        }
        $this->findMany(array_values(array_unique($ids)));
    }

    public function lastTurn(string $team): ?string
    {
        return array_key_exists($team, $this->turns) ? $this->turns[$team] : $this->turns[$team] = $this->ask(fn () => $this->records->lastTurn($team, $this->writes));
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->turns[$team] = $person;
        if ($this->writes) {
            $this->ask(fn () => $this->records->takeTurn($team, $person));
        }
    }

    public function loads(array $people, array $open): array
    {
        $loads = $this->ask(fn () => $this->records->loads($people, $open));
        foreach ($this->pending as $id => $was) {
            foreach ([[$was?->record, -1], [$this->read[$id]?->record, 1]] as [$record, $by]) {
                $assignee = $record?->value('assignee');
                if ($record !== null && is_string($assignee) && isset($loads[$assignee]) && in_array($record->value('state'), $open[$record->type] ?? [], true)) {
                    $loads[$assignee] += $by;
                }
            }
        }

        return $loads;
    }

    public function hold(array $ids): void
    {
        if ($this->writes && $ids !== []) {
            $waiting = array_intersect_key($this->read, $this->pending);
            $this->read = $waiting + $this->ask(fn () => $this->records->findMany(array_values(array_filter($ids, fn (string $id): bool => ! array_key_exists($id, $this->pending))), $this->rulebook, lock: true)) + $this->read;
        }
    }

    public function named(RecordType $type, string $name): array
    {
        $lower = mb_strtolower($name);

        return array_slice($this->withPending($this->ask(fn () => $this->records->named($type->key, $name)), fn (Record $r): bool => $r->type === $type->key && mb_strtolower($type->nameOf($r)) === $lower), 0, 5);
    }

    public function delete(string $id): void
    {
        $this->flush();
        $this->ask(fn () => $this->records->delete($id));
        $this->read[$id] = null;
    }

    public function save(Record $record): void
    {
        $type = $this->rulebook->types[$record->type];
        $old = $this->stored($record->id);
        if ($this->buffered) {
            if (! array_key_exists($record->id, $this->pending)) {
                $this->pending[$record->id] = $old;
            }
            $this->read[$record->id] = new StoredRecord($record, $old->version ?? 1, $old->createdAt ?? $this->now, $this->now, $old->n ?? 0);

            return;
        }
        unset($this->buckets[$record->type]);
        $this->read[$record->id] = $old === null
            ? $this->ask(fn () => $this->records->insert($record, $type, $this->now))
            : $this->ask(fn () => $this->records->update($old, $record, $type, $this->now));
    }

    /** Keeps a record whose fields have become something else. */
    public function convert(Record $record): void
    {
        $old = $this->stored($record->id) ?? throw new \LogicException('Only a record that is there can be converted.');
        $this->read[$record->id] = $this->ask(fn () => $this->records->update($old, $record, $this->rulebook->types[$record->type], $this->now, anew: true));
    }

    public function newId(RecordType $type): string
    {
        $short = $type->short ?? strtoupper($type->key);
        if (! $this->writes) {
            // nothing is kept, so no number is taken
            return $short.'-new'.++$this->unreal;
        }
        if ($this->buffered) {
            do {
                if (($this->free[$type->key] ?? []) === []) {
                    isset($this->taken[$type->key]) && $this->ask(fn () => $this->records->takeNumber($type->key, $this->taken[$type->key]));
                    $this->free[$type->key] = $this->ask(fn () => $this->records->freeNumbers($type->key, $short, self::BLOCK));
                }
                $number = array_shift($this->free[$type->key]);
                $this->taken[$type->key] = $number;
                $id = $short.'-'.$number;
            } while (isset($this->read[$id]));
            $this->read[$id] = null;

            return $id;
        }
        do {
            $id = $short.'-'.$this->ask(fn () => $this->records->nextNumber($type->key));
        } while ($this->stored($id) !== null);

        return $id;
    }

    /** The record with a lock on it until the transaction ends. */
    public function lock(string $id): ?StoredRecord
    {
        return $this->read[$id] = $this->ask(fn () => $this->records->find($id, $this->rulebook, lock: true));
    }

    public function stored(string $id): ?StoredRecord
    {
        if (! array_key_exists($id, $this->read)) {
            $this->read[$id] = $this->ask(fn () => $this->records->find($id, $this->rulebook));
        }

        return $this->read[$id];
    }
}
