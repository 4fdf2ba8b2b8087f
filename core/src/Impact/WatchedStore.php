<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Feel\Number;
use Sorvel\Core\Model\Condition;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;

/** A store that remembers what an event read through it, until the event itself is settled. */
final class WatchedStore implements RecordStore
{
    /** Of what is larger, only that it was asked is kept: such an event does not suffice for another rulebook. */
    private const MOST = 300;

    /** @var array<string, Record|null> by id; null where there was none */
    private array $found = [];

    /** @var array<string, array{type: string, conditions: list<mixed>, ids: list<string>|null}> */
    private array $matched = [];

    /** @var array<string, string|null> by team */
    private array $turns = [];

    /** @var array<string, array<string, int>> by question */
    private array $loads = [];

    private bool $isSettled = false;

    public function __construct(private readonly RecordStore $under)
    {
    }

    /** The event is settled: what follows from it on other records reads for itself. */
    public function settled(): void
    {
        $this->isSettled = true;
    }

    /** @return array{records: array<string, list<array<string, mixed>>>, none: list<string>, matched: list<array{type: string, conditions: list<mixed>, ids: list<string>|null}>, turns: array<string, string|null>, loads: array<string, array<string, int>>} plain data; bookkeeping of fields left out */
    public function read(): array
    {
        $records = [];
        $none = [];
        foreach ($this->found as $id => $record) {
            if ($record === null) {
                $none[] = (string) $id;
            } else {
                $records[$record->type][] = ['id' => $record->id, ...Record::json($record->values)];
            }
        }

        return ['records' => $records, 'none' => $none, 'matched' => array_values($this->matched), 'turns' => $this->turns, 'loads' => $this->loads];
    }

    /**
     * One question to a store, so that the same question is recognised.
     *
     * @param  list<Condition>  $conditions
     * @return list<mixed>
     */
    public static function question(array $conditions): array
    {
        return array_map(fn (Condition $c): array => [$c->field, $c->test, array_map(fn (mixed $v): mixed => $v instanceof \Brick\Math\BigDecimal ? Number::text($v) : $v, $c->values)], $conditions);
    }

    public function find(string $id): ?Record
    {
        $record = $this->under->find($id);
        if (! $this->isSettled && ! array_key_exists($id, $this->found)) {
            $this->found[$id] = $record;
        }

        return $record;
    }

    public function findMany(array $ids): array
    {
        $found = $this->under->findMany($ids);
        if (! $this->isSettled && count($ids) <= self::MOST) {
            foreach ($ids as $id) {
                if (! array_key_exists($id, $this->found)) {
                    $this->found[$id] = $found[$id] ?? null;
                }
            }
        }

        return $found;
    }

    public function peek(array $ids): iterable
    {
        return $this->under->peek($ids);
    }

    public function referring(string $type, string $field, array $ids): array
    {
        return $this->under->referring($type, $field, $ids);
    }

    public function matching(string $type, array $conditions): array
    {
        $ids = $this->under->matching($type, $conditions);
        if (! $this->isSettled) {
            $question = self::question($conditions);
            $this->matched[$type.json_encode($question)] = ['type' => $type, 'conditions' => $question, 'ids' => count($ids) > self::MOST ? null : $ids];
        }

        return $ids;
    }

    public function foresee(string $type, string $field, array $values): void
    {
        $this->under->foresee($type, $field, $values);
    }

    public function lastTurn(string $team): ?string
    {
        $last = $this->under->lastTurn($team);
        if (! $this->isSettled) {
            $this->turns[$team] = $last;
        }

        return $last;
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->under->takeTurn($team, $person);
    }

    public function loads(array $people, array $open): array
    {
        $loads = $this->under->loads($people, $open);
        if (! $this->isSettled) {
            $this->loads[(string) json_encode($people)] = $loads;
        }

        return $loads;
    }

    public function named(RecordType $type, string $name): array
    {
        return $this->under->named($type, $name);
    }

    public function hold(array $ids): void
    {
        $this->under->hold($ids);
    }

    public function save(Record $record): void
    {
        $this->under->save($record);
    }

    public function delete(string $id): void
    {
        $this->under->delete($id);
    }

    public function newId(RecordType $type): string
    {
        return $this->under->newId($type);
    }
}
