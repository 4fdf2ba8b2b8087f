<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

/** Where records are kept: in memory for a replay, in the database for the desk. */
interface RecordStore
{
    public function find(string $id): ?Record;

    /**
     * @param  list<string>  $ids
     * @return array<string, Record> those found, by id
     */
    public function findMany(array $ids): array;

    /**
     * Like findMany, for many that are looked at once: what is read is not kept for later.
     *
     * @param  list<string>  $ids
     * @return iterable<Record>
     */
    public function peek(array $ids): iterable;

    /**
     * Records of a type whose reference (or one of whose references) points to one of the ids.
     *
     * @param  list<string>  $ids
     * @return list<string> ids in natural order, each once
     */
    public function referring(string $type, string $field, array $ids): array;

    /**
     * Records of a type that meet every condition.
     *
     * @param  list<Condition>  $conditions
     * @return list<string> ids in natural order, each once
     */
    public function matching(string $type, array $conditions): array;

    /**
     * These values will be asked for by {@see matching}, each for another record: a store may fetch them as a set.
     *
     * @param  list<string|int|bool|\Brick\Math\BigDecimal>  $values
     */
    public function foresee(string $type, string $field, array $values): void;

    /** The person of a team who was given something last, by turns; held until what is decided on it is saved. */
    public function lastTurn(string $team): ?string;

    public function takeTurn(string $team, string $person): void;

    /**
     * @param  list<string>  $people
     * @param  array<string, list<string>>  $open  by ticket type, its open states
     * @return array<string, int> how many open tickets each has, by person
     */
    public function loads(array $people, array $open): array;

    /** @return list<string> ids of records of a type that are called so, letters large or small, at most 5 */
    public function named(RecordType $type, string $name): array;

    /**
     * These records are about to be changed: until that is done, nobody else may.
     *
     * @param  list<string>  $ids
     */
    public function hold(array $ids): void;

    /** Keeps a new or a changed record. */
    public function save(Record $record): void;

    public function delete(string $id): void;

    /** An id for a new record, never given before: for a ticket type its short name and the next number (F-12). */
    public function newId(RecordType $type): string;
}
