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
     * Records of a type whose reference (or one of whose references) points to one of the ids.
     *
     * @param  list<string>  $ids
     * @return list<string> ids in natural order, each once
     */
    public function referring(string $type, string $field, array $ids): array;

    /**
     * These records are about to be changed: until that is done, nobody else may.
     *
     * @param  list<string>  $ids
     */
    public function hold(array $ids): void;

    /** Keeps a new or a changed record. */
    public function save(Record $record): void;

    /** An id for a new record, never given before: for a ticket type its short name and the next number (F-12). */
    public function newId(RecordType $type): string;
}
