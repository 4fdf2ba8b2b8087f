<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;

/** What was there at a moment of the past, as far as it was read then; anything else is not known, and never guessed. */
final class PastStore implements RecordStore
{
    private readonly InMemoryStore $known;

    /** @var array<string, true> ids of which it is known that there was no such record */
    private array $none = [];

    /** @var array<string, list<string>|null> by question */
    private array $matched = [];

    /**
     * @param  array<string, string|null>  $turns
     * @param  array<string, array<string, int>>  $loads
     * @param  list<Record>  $records
     * @param  list<string>  $none
     * @param  list<array{type: string, conditions: list<mixed>, ids: list<string>|null}>  $matched
     */
    public function __construct(array $records, array $none, array $matched, private array $turns, private readonly array $loads)
    {
        $this->known = new InMemoryStore;
        foreach ($records as $record) {
            $this->known->save($record);
        }
        $this->none = array_fill_keys($none, true);
        foreach ($matched as $one) {
            $this->matched[$one['type'].json_encode($one['conditions'])] = $one['ids'];
        }
    }

    public function find(string $id): ?Record
    {
        return $this->known->find($id) ?? (isset($this->none[$id]) ? null : throw new NotRecorded(sprintf('the record %s was not read', $id)));
    }

    public function findMany(array $ids): array
    {
        $found = [];
        foreach ($ids as $id) {
            $record = $this->find($id);
            if ($record !== null) {
                $found[$id] = $record;
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
        throw new NotRecorded(sprintf('who refers by %s of %s was not asked', $field, $type));
    }

    public function matching(string $type, array $conditions): array
    {
        $question = WatchedStore::question($conditions);

        return $this->matched[$type.json_encode($question)] ?? throw new NotRecorded(sprintf('%s were not looked up in this way', $type));
    }

    public function foresee(string $type, string $field, array $values): void
    {
    }

    public function lastTurn(string $team): ?string
    {
        return array_key_exists($team, $this->turns) ? $this->turns[$team] : throw new NotRecorded(sprintf('whose turn it was in %s was not asked', $team));
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->turns[$team] = $person;
    }

    public function loads(array $people, array $open): array
    {
        return $this->loads[(string) json_encode($people)] ?? throw new NotRecorded('how much these people had was not asked');
    }

    public function named(RecordType $type, string $name): array
    {
        throw new NotRecorded(sprintf('%s were not looked for by name', $type->title));
    }

    public function hold(array $ids): void
    {
    }

    public function save(Record $record): void
    {
        $this->known->save($record);
    }

    public function delete(string $id): void
    {
        $this->known->delete($id);
    }

    public function newId(RecordType $type): string
    {
        return $this->known->newId($type);
    }
}
