<?php

declare(strict_types=1);

namespace Sorvel\Core\Impact;

use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventKind;
use Sorvel\Core\Engine\Message;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\InvalidInput;
use Sorvel\Core\Model\Field;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Rulebook;

/** One event of the past with all that is needed to replay it: what came in, what was read, what came out. A line of JSON. */
final class PastEvent
{
    /**
     * @param  array<string, mixed>  $values  that came in
     * @param  array<string, mixed>|null  $before  the record's values; null for what was made
     * @param  array<string, mixed>  $after
     * @param  array<string, mixed>  $data  a message, an answer, inputs
     * @param  array<string, int>  $due  rules it spoke to, for `at` and `by_hand`
     * @param  list<string>  $acted  rules that reached a row
     * @param  array{records: array<string, list<array<string, mixed>>>, none: list<string>, matched: list<array{type: string, conditions: list<mixed>, ids: list<string>|null}>, turns: array<string, string|null>, loads: array<string, array<string, int>>}  $reads
     */
    public function __construct(
        public readonly string $kind,
        public readonly string $type,
        public readonly string $id,
        public readonly ?string $by,
        public readonly ?string $role,
        public readonly string $at,
        public readonly array $values,
        public readonly ?array $before,
        public readonly array $after,
        public readonly array $data,
        public readonly array $due,
        public readonly array $acted,
        public readonly array $reads,
    ) {
    }

    public static function of(Event $event, Outcome $outcome, WatchedStore $store): self
    {
        return new self(
            $event->kind->value, $event->type, $event->id, $event->by, $event->role?->value, $event->at, $event->values,
            $outcome->before === null ? null : Record::json($outcome->before->values), Record::json($outcome->record->values), $event->data, $event->due,
            array_map(strval(...), array_keys(array_filter($outcome->rules(), fn (RuleStatus $s): bool => $s->reachedRow()))), $store->read(),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return array_filter(get_object_vars($this), fn (mixed $v): bool => $v !== [] && $v !== null);
    }

    /**
     * @param  array<array-key, mixed>  $line
     *
     * @throws InvalidInput
     */
    public static function from(array $line): self
    {
        $errors = [];
        foreach (['kind', 'type', 'id', 'at'] as $key) {
            if (! is_string($line[$key] ?? null) || $line[$key] === '') {
                $errors[] = new InputError('/'.$key, 'This must be a text.');
            }
        }
        foreach (['values', 'before', 'after', 'data', 'due', 'acted', 'reads'] as $key) {
            if (isset($line[$key]) && ! is_array($line[$key])) {
                $errors[] = new InputError('/'.$key, 'This must be a list or a map.');
            }
        }
        if (isset($line['kind']) && is_string($line['kind']) && EventKind::tryFrom($line['kind']) === null) {
            $errors[] = new InputError('/kind', sprintf('"%s" is no kind of event; it is one of %s.', mb_strimwidth($line['kind'], 0, 40, '…'), implode(', ', array_map(fn (EventKind $k): string => $k->value, EventKind::cases()))));
        }
        if ($errors !== []) {
            throw new InvalidInput($errors);
        }
        $reads = is_array($line['reads'] ?? null) ? $line['reads'] : [];

        return new self(
            $line['kind'], $line['type'], $line['id'], is_string($line['by'] ?? null) ? $line['by'] : null, is_string($line['role'] ?? null) ? $line['role'] : null, $line['at'],
            $line['values'] ?? [], $line['before'] ?? null, $line['after'] ?? [], $line['data'] ?? [], $line['due'] ?? [], array_values($line['acted'] ?? []),
            $reads + ['records' => [], 'none' => [], 'matched' => [], 'turns' => [], 'loads' => []],
        );
    }

    public function event(): Event
    {
        $role = Role::tryFrom((string) $this->role);
        $data = $this->data;

        return match (EventKind::from($this->kind)) {
            EventKind::Created => Event::created($this->type, $this->id, $this->values, $this->by, $this->at, $role),
            EventKind::Changed => Event::changed($this->type, $this->id, $this->values, $this->by, $this->at, $role),
            EventKind::Deleted => Event::deleted($this->type, $this->id, $this->by, $this->at, $role),
            EventKind::Received => Event::received($this->type, $this->id, new Message((string) ($data['message']['from'] ?? ''), (string) ($data['message']['subject'] ?? ''), $data['message']['text'] ?? null, $data['message']['html'] ?? null), $this->values, $this->by, $this->at, $role),
            EventKind::Answered => Event::answered($this->type, $this->id, (string) ($data['call'] ?? ''), is_int($data['status'] ?? null) ? $data['status'] : null, $data['body'] ?? null, $this->at),
            EventKind::At => Event::scheduled($this->type, $this->id, $this->due, $this->at),
            EventKind::ByHand => Event::byHand($this->type, $this->id, (string) array_key_first($this->due), (array) ($data['inputs'] ?? []), $this->by, $this->at, $role),
        };
    }

    /**
     * What was there, as this rulebook stores it.
     *
     * @throws NotRecorded when a type or a value does not exist any more
     */
    public function store(Rulebook $rulebook): PastStore
    {
        $records = [];
        foreach ($this->reads['records'] as $type => $list) {
            foreach ($list as $values) {
                $id = (string) ($values['id'] ?? '');
                unset($values['id']);
                if ($id !== $this->id) {
                    $records[] = self::record($rulebook, (string) $type, $id, $values);
                }
            }
        }
        if ($this->before !== null) {
            $records[] = self::record($rulebook, $this->type, $this->id, $this->before);
        }

        return new PastStore($records, [...$this->reads['none'], ...($this->before === null ? [$this->id] : [])], $this->reads['matched'], $this->reads['turns'], $this->reads['loads']);
    }

    /** @param  array<string, mixed>  $values  plain data */
    public static function record(Rulebook $rulebook, string $type, string $id, array $values): Record
    {
        $of = $rulebook->types[$type] ?? throw new NotRecorded(sprintf('there is no type "%s" any more', $type));
        $stored = [];
        foreach ($values as $key => $value) {
            $field = $of->fields[$key] ?? null;
            if ($field !== null && ! Record::isEmpty($value)) {
                $stored[$key] = self::stored($value, $field);
            }
        }

        return new Record($id, $type, $stored);
    }

    private static function stored(mixed $value, Field $field): mixed
    {
        // only numbers are stored otherwise than they are written
        return is_float($value) || (is_string($value) && in_array($field->behavesAs()->value, ['number', 'percent'], true)) ? \Sorvel\Core\Feel\Number::of(is_float($value) ? (string) json_encode($value) : $value) : $value;
    }

    /** What the record is called. */
    public function title(?RecordType $type): string
    {
        $name = $this->after[$type->nameField ?? 'title'] ?? null;

        return is_string($name) && $name !== '' ? $name : $this->id;
    }
}
