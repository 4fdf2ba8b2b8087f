<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Model\FieldIndex;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;

/** What an event and its follow-ups have come to, over a store that is not written to. */
final class OverlayStore implements RecordStore
{
    /** @var array<string, Record> */
    private array $records = [];

    /** @var array<string, true> */
    private array $deleted = [];

    /** @var array<string, string> person by team */
    private array $turns = [];

    private readonly FieldIndex $index;

    public function __construct(private readonly RecordStore $under)
    {
        $this->index = new FieldIndex;
    }

    public function find(string $id): ?Record
    {
        return $this->records[$id] ?? (isset($this->deleted[$id]) ? null : $this->under->find($id));
    }

    public function findMany(array $ids): array
    {
        $mine = [];
        foreach ($ids as $id) {
            if (isset($this->records[$id])) {
                $mine[$id] = $this->records[$id];
            }
        }

        return $mine + array_diff_key($this->under->findMany(array_values(array_diff($ids, array_map(strval(...), array_keys($mine))))), $this->deleted);
    }

    public function peek(array $ids): iterable
    {
        $under = [];
        foreach ($ids as $id) {
            if (isset($this->records[$id])) {
                yield $this->records[$id];
            } elseif (! isset($this->deleted[$id])) {
                $under[] = $id;
            }
        }
        yield from $this->under->peek($under);
    }

    public function hold(array $ids): void
    {
        $this->under->hold(array_values(array_filter($ids, fn (string $id): bool => ! isset($this->records[$id]))));
    }

    public function save(Record $record): void
    {
        $this->index->forget($this->records[$record->id] ?? null);
        $this->records[$record->id] = $record;
        $this->index->note($record);
        unset($this->deleted[$record->id]);
    }

    public function delete(string $id): void
    {
        $this->index->forget($this->records[$id] ?? null);
        unset($this->records[$id]);
        $this->deleted[$id] = true;
    }

    public function matching(string $type, array $conditions): array
    {
        $found = array_values(array_filter($this->under->matching($type, $conditions), fn (string $id): bool => ! isset($this->records[$id]) && ! isset($this->deleted[$id])));
        $under = count($found);
        array_push($found, ...$this->index->matching($this->records, $type, $conditions));
        if (count($found) > $under) {
            sort($found, SORT_NATURAL);
        }

        return $found;
    }

    public function foresee(string $type, string $field, array $values): void
    {
        $this->under->foresee($type, $field, $values);
    }

    public function lastTurn(string $team): ?string
    {
        return $this->turns[$team] ?? $this->under->lastTurn($team);
    }

    public function takeTurn(string $team, string $person): void
    {
        $this->turns[$team] = $person;
    }

    public function loads(array $people, array $open): array
    {
        $loads = $this->under->loads($people, $open);
        $count = function (?Record $record, int $by) use (&$loads, $open): void {
            $assignee = $record?->value('assignee');
            if ($record !== null && is_string($assignee) && isset($loads[$assignee]) && in_array($record->value('state'), $open[$record->type] ?? [], true)) {
                $loads[$assignee] += $by;
            }
        };
        foreach ($this->under->findMany(array_map(strval(...), [...array_keys($this->records), ...array_keys($this->deleted)])) as $record) {
            $count($record, -1);
        }
        foreach ($this->records as $record) {
            $count($record, 1);
        }

        return $loads;
    }

    public function named(RecordType $type, string $name): array
    {
        $lower = mb_strtolower($name);
        $mine = array_filter($this->records, fn (Record $r): bool => $r->type === $type->key && mb_strtolower($type->nameOf($r)) === $lower);
        $under = array_filter($this->under->named($type, $name), fn (string $id): bool => ! isset($this->records[$id]) && ! isset($this->deleted[$id]));

        return array_slice([...$under, ...array_map(strval(...), array_keys($mine))], 0, 5);
    }

    public function newId(RecordType $type): string
    {
        return $this->under->newId($type);
    }

    public function referring(string $type, string $field, array $ids): array
    {
        $found = array_diff_key(array_flip($this->under->referring($type, $field, $ids)), $this->deleted);
        $found = array_filter($found, fn (string|int $id): bool => ! isset($this->records[$id]), ARRAY_FILTER_USE_KEY);
        $found += $this->index->holding($this->records, $type, $field, $ids);
        $found = array_map(strval(...), array_keys($found));
        sort($found, SORT_NATURAL);

        return $found;
    }
}
