<?php

declare(strict_types=1);

namespace Sorvel\Core\Finding;

use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Table\Table;

/** The names that a formula may use at some place, with what is known of each. */
final class Names
{
    /**
     * @param  array<string, KnownType>  $names
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     * @param  RecordType|null  $of  whose fields stand bare
     */
    private function __construct(
        public readonly array $names,
        public readonly array $types,
        public readonly array $people,
        public readonly array $teams,
        public readonly ?RecordType $of = null,
    ) {
    }

    /**
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     * @param  array<string, Table>  $tables
     */
    public static function ofRecord(RecordType $type, array $types, array $people, array $teams, array $tables): self
    {
        $names = [
            'id' => new KnownType('text'),
            'record' => new KnownType('record', type: $type),
            'was' => new KnownType('record', type: $type),
            'event' => new KnownType('context'),
            'changed' => new KnownType('function', arity: [1, 1], each: new KnownType('yes_no')),
            'open' => new KnownType('function', arity: [1, 1], each: new KnownType('yes_no')),
        ];
        foreach ($tables as $table) {
            $names[$table->key] = KnownType::ofTable($table, $types);
        }
        foreach ($type->fields as $field) {
            $names[$field->key] = KnownType::ofField($field, $types);
        }

        return new self($names, $types, $people, $teams, $type);
    }

    /**
     * @param  array<string, RecordType>  $types
     * @param  array<string, Person>  $people
     * @param  array<string, Team>  $teams
     */
    public static function none(array $types, array $people, array $teams): self
    {
        return new self([], $types, $people, $teams);
    }

    public function with(string $name, KnownType $type): self
    {
        return new self([...$this->names, $name => $type], $this->types, $this->people, $this->teams, $this->of);
    }

    /** As inside a filter over records of a type: its fields stand bare. */
    public function within(?RecordType $type): self
    {
        $fields = array_map(fn (Field $f): KnownType => KnownType::ofField($f, $this->types), $type->fields ?? []);

        return new self([...$this->names, 'id' => new KnownType('text'), ...$fields], $this->types, $this->people, $this->teams, $type);
    }
}
