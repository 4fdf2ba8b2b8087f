<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\FunctionValue;
use Sorvel\Core\Feel\PlainContext;
use Sorvel\Core\Feel\Scope;
use Sorvel\Core\Feel\Temporal\Date;
use Sorvel\Core\Feel\Temporal\DateTime;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Person;
use Sorvel\Core\Model\PersonView;
use Sorvel\Core\Model\Reads;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\RecordView;
use Sorvel\Core\Model\Team;
use Sorvel\Core\Model\TeamView;
use Sorvel\Core\Model\Viewer;

/** What a formula can name during an event: fields, record, was, event, tables, changed(), open(). */
final class EventScope implements Scope
{
    private const OWN = ['record' => 1, 'was' => 1, 'event' => 1, 'changed' => 1, 'open' => 1, 'now' => 1, 'today' => 1];

    /** Made when first needed. */
    private ?RecordView $view = null;

    private ?DateTime $now = null;

    /** @var array{string, string, DateTime|null}|null the moment asked for last, its zone, and what it is */
    private static ?array $moment = null;

    /** @var array<string, mixed> of the record, stored form; public for compiled rules, which read it; changed by {@see put} */
    public array $values;

    /** @var array<string, array{mixed, mixed}> by field, what is stored and how a formula sees it; other records stand still while an event lasts */
    private array $known = [];

    /** @var array<string, Record> by id, records that have been referred to; public for compiled rules */
    public array $met = [];

    public readonly string $id;

    /** @var array<string, Person> public for compiled rules */
    public readonly array $people;

    /** @var array<string, Team> public for compiled rules */
    public readonly array $teams;

    /** Whether the record is as the values are. */
    private bool $isRecord = true;

    private readonly Reads $reads;

    /** @var array<string, FunctionValue> */
    private array $functions = [];

    public function __construct(
        private readonly Event $event,
        public readonly RecordType $type,
        private readonly ?Record $before,
        private Record $record,
        private readonly Viewer $viewer,
    ) {
        $this->values = $record->values;
        $this->reads = $viewer->reads;
        $this->id = $record->id;
        $this->people = $viewer->rulebook->people;
        $this->teams = $viewer->rulebook->teams;
    }

    /** A record that another refers to. @throws EvaluationStopped when it is not there, or of another type */
    public function meet(string $id, string $type): Record
    {
        $record = $this->viewer->store->find($id);

        return $record?->type === $type ? $this->met[$id] = $record : $this->leave();
    }

    /** What is compiled does not know this case. @throws EvaluationStopped, after which it is walked */
    public function leave(): never
    {
        throw new EvaluationStopped('It takes more to know.');
    }

    /** The key of a person who is there to be set; null when that takes more to know. */
    public function person(mixed $value): ?string
    {
        $key = $value instanceof PersonView ? $value->identity() : $value;

        return is_string($key) && ($this->people[$key] ?? null)?->active === true ? $key : null;
    }

    /** The key of a team; null when there is none. */
    public function team(mixed $value): ?string
    {
        $key = $value instanceof TeamView ? $value->identity() : $value;

        return is_string($key) && isset($this->teams[$key]) ? $key : null;
    }

    /** The key of a person's team. */
    public function teamOf(string $person): ?string
    {
        return $this->viewer->rulebook->teamOf(($this->people[$person] ?? $this->leave())->key)?->key;
    }

    public function record(): Record
    {
        if (! $this->isRecord) {
            $this->record = new Record($this->record->id, $this->record->type, $this->values);
            $this->isRecord = true;
        }

        return $this->record;
    }

    public function becomes(Record $record): void
    {
        $this->record = $record;
        $this->view = null;
        $this->values = $record->values;
        $this->isRecord = true;
    }

    /** One field of the record becomes something else; null empties it. */
    public function put(string $field, mixed $stored): void
    {
        if ($stored === null || $stored === '' || $stored === []) {
            unset($this->values[$field]);
        } else {
            $this->values[$field] = $stored;
        }
        $this->view = null;
        $this->isRecord = false;
    }

    public function has(string $name): bool
    {
        return isset($this->type->fields[$name]) || $name === 'id' || isset(self::OWN[$name]) || isset($this->viewer->rulebook->tables[$name]);
    }

    /** A field that a formula does not see as it is stored, as it sees it; without a note that it was read. */
    public function seen(string $name): mixed
    {
        $stored = $this->values[$name] ?? null;
        if ($stored === null) {
            return null;
        }
        if (($this->known[$name][0] ?? null) === $stored) {
            return $this->known[$name][1];
        }
        $field = $this->type->fields[$name];
        $seen = $field->kind->seen($stored, $field, $this->viewer, $name.'.');
        $this->known[$name] = [$stored, $seen];

        return $seen;
    }

    /** As {@see seen}, of a field whose values note nothing themselves. */
    public function shown(string $name): mixed
    {
        return $this->seen($name);
    }

    public function get(string $name): mixed
    {
        if (isset($this->type->plain[$name])) {
            return $this->reads->values[$name] = $this->values[$name] ?? null;
        }
        if (isset($this->type->fields[$name])) {
            $this->reads->values[$name] = $this->values[$name] ?? null;

            return $this->seen($name);
        }
        if ($name === 'id') {
            return $this->record->id;
        }

        if (! isset(self::OWN[$name])) {
            return isset($this->viewer->rulebook->tables[$name]) ? $this->functions[$name] ??= $this->viewer->rulebook->tables[$name]->asFunction($this->viewer->reads) : null;
        }

        return match ($name) {
            'record' => $this->view(),
            'was' => $this->before === null ? null : new RecordView($this->before, $this->viewer, 'was.'),
            'event' => $this->event(),
            'changed' => $this->functions['changed'] ??= new FunctionValue('changed', ['field'], fn (array $a, Warnings $w): ?bool => $this->changed($a[0], $w), 1),
            'now' => $this->functions['now'] ??= new FunctionValue('now', [], fn (): ?DateTime => $this->now(), 0),
            'today' => $this->functions['today'] ??= new FunctionValue('today', [], fn (): ?Date => $this->today(), 0),
            default => $this->functions['open'] ??= new FunctionValue('open', ['state'], fn (array $a): ?bool => is_string($a[0]) ? ($this->type->states[$a[0]] ?? null)?->open : null, 1),
        };
    }

    private function view(): RecordView
    {
        return $this->view ??= new RecordView($this->record(), $this->viewer);
    }

    /** The moment of the event on the desk's clock. */
    public function now(): ?DateTime
    {
        if ($this->now === null) {
            $name = $this->viewer->rulebook->timezone;
            // the events of one save and what follows them are all of one moment
            if ([self::$moment[0] ?? '', self::$moment[1] ?? ''] !== [$this->event->at, $name]) {
                $zone = new \DateTimeZone($name);
                $at = (new \DateTimeImmutable($this->event->at, $zone))->setTimezone($zone);
                self::$moment = [$this->event->at, $name, DateTime::parse($at->format('Y-m-d\TH:i:s').'@'.$zone->getName())];
            }
            $this->now = self::$moment[2] ?? null;
        }

        return $this->now;
    }

    public function today(): ?Date
    {
        return $this->now()?->date;
    }

    private function changed(mixed $field, Warnings $warnings): ?bool
    {
        if (! is_string($field) || ! isset($this->type->fields[$field])) {
            return $warnings->add('changed() needs the key of a field, in quotes.');
        }
        $this->viewer->reads->note('was.'.$field, Record::plain($this->before?->value($field)));

        return ! Record::same($this->before?->value($field), $this->values[$field] ?? null);
    }

    /** Answers as what they are: a person as a person, a date as a date. */
    private function inputs(): PlainContext
    {
        $given = is_array($this->event->data['inputs'] ?? null) ? $this->event->data['inputs'] : [];
        $inputs = [];
        foreach (array_keys($this->event->due) as $rule) {
            foreach (($this->viewer->rulebook->rules[$rule] ?? null)?->byHand()->questions ?? [] as $question) {
                $field = $question->field;
                try {
                    $value = $given[$field->key] ?? null;
                    $stored = Record::isEmpty($value) ? null : $field->kind->fit($value, $field, $this->viewer, byRule: false);
                    $inputs[$field->key] = $stored === null || $field->isPlain ? $stored : $field->kind->seen($stored, $field, $this->viewer, 'event.inputs.'.$field->key.'.');
                } catch (Misfit) {
                    $inputs[$field->key] = null;
                }
            }
        }

        return new PlainContext($inputs);
    }

    private function event(): PlainContext
    {
        $person = $this->event->by === null ? null : $this->viewer->rulebook->people[$this->event->by] ?? null;

        return new PlainContext([
            'kind' => $this->event->kind->value,
            'by' => $person === null ? null : new PersonView($person, $this->viewer),
            'at' => $this->now(),
            'changed' => array_keys($this->event->values),
            ...array_map(Values::fromJson(...), $this->event->data),
            ...($this->event->kind === EventKind::ByHand ? ['inputs' => $this->inputs()] : []),
        ]);
    }
}
