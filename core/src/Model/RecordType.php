<?php

declare(strict_types=1);

namespace Sorvel\Core\Model;

use Sorvel\Core\Feel\Walk;

final class RecordType
{
    /** @var list<Field> derived fields, each after those that it reads */
    public readonly array $derived;

    /** @var list<Field> fields that must not be empty */
    public readonly array $required;

    /** @var list<Field> fields that a new record begins with: those with a default, and tallies */
    public readonly array $begun;

    /** @var array<string, true> fields whose value a formula sees as it is stored */
    public readonly array $plain;

    /** @var array<string, true> fields whose change is told when an event brings it; those that the desk itself sets are not */
    public readonly array $told;

    /**
     * @param  array<string, Field>  $fields  by key; for a ticket the built-in ones first
     * @param  array<string, State>  $states  by key, in order; empty for a register
     * @param  array<string, array<string, Role>>|null  $moves  from state to states, each with the least role that may make it; null when every move is allowed
     */
    public function __construct(
        public readonly string $key,
        public readonly string $title,
        public readonly bool $isTicket,
        public readonly array $fields,
        public readonly ?string $nameField = null,
        public readonly ?string $short = null,
        public readonly array $states = [],
        public readonly ?array $moves = null,
    ) {
        $this->plain = array_fill_keys(array_keys(array_filter($fields, fn (Field $field): bool => $field->isPlain)), true);
        $this->required = array_values(array_filter($fields, fn (Field $field): bool => $field->required));
        $this->begun = array_values(array_filter($fields, fn (Field $field): bool => $field->default !== null || $field->tally !== null));
        $this->told = array_fill_keys(array_keys(array_filter($fields, fn (Field $field): bool => ! $field->fixed || $field->tally !== null)), true);
        $this->derived = self::ordered(array_filter($fields, fn (Field $field): bool => $field->formula !== null));
    }

    /**
     * @param  array<string, Field>  $derived
     * @return list<Field>
     */
    private static function ordered(array $derived): array
    {
        $ordered = [];
        $visit = function (Field $field, array $open) use (&$visit, &$ordered, $derived): void {
            if (isset($ordered[$field->key]) || isset($open[$field->key]) || $field->formula === null) {
                return;
            }
            foreach (Walk::names($field->formula->tree) as $name) {
                if (isset($derived[$name])) {
                    $visit($derived[$name], [...$open, $field->key => true]);
                }
            }
            $ordered[$field->key] = $field;
        };
        foreach ($derived as $field) {
            $visit($field, []);
        }

        return array_values($ordered);
    }

    /** @param  array<string, Field>  $fields  by key */
    public function withFields(array $fields): self
    {
        return new self($this->key, $this->title, $this->isTicket, $fields, $this->nameField, $this->short, $this->states, $this->moves);
    }

    public function allowsMove(string $from, string $to): bool
    {
        return $from === $to || $this->moves === null || isset($this->moves[$from][$to]);
    }

    /** The least role that may move a ticket so; null when there is no such move. */
    public function moveNeeds(string $from, string $to): ?Role
    {
        return $this->allowsMove($from, $to) ? $this->moves[$from][$to] ?? Role::Agent : null;
    }

    public function firstState(): ?string
    {
        return array_key_first($this->states);
    }

    /** What a record of this type is called: its name field, else its title, else its id. */
    public function nameOf(Record $record): string
    {
        $name = $record->value($this->nameField ?? 'title');

        return is_string($name) && $name !== '' ? $name : $record->id;
    }
}
