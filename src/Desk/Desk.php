<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\Run\Run;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Guard\Choices;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tally\Tallies;

/** Saves records through the engine: values in, settled record and run out, in one transaction. */
final class Desk
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Records $records,
        private readonly Editions $editions,
        private readonly ClockInterface $clock,
        private readonly LoggerInterface $logger,
    ) {
    }

    public function rulebook(): Rulebook
    {
        return $this->editions->rulebook() ?? throw new Problem(409, 'This desk has no edition in force yet.', 'Publish the draft first.');
    }

    /** @param  array<string, mixed>  $values */
    public function create(string $type, array $values, ?string $by, ?\DateTimeImmutable $at = null, ?string $id = null): SavedEvent
    {
        $at ??= $this->clock->now();

        return $this->entities->wrapInTransaction(function () use ($type, $values, $by, $at, $id): SavedEvent {
            $this->editions->hold();
            $of = $this->type($type);
            $store = $this->store($at);
            $event = Event::created($of->key, $id ?? $store->newId($of), $values, $by, $at->format(\DATE_ATOM));

            return $this->handle($event, $store, $at);
        });
    }

    /**
     * @param  array<string, mixed>  $values
     * @param  int|null  $version  the version that the change was made against; null to take any
     */
    public function change(string $id, array $values, ?int $version, ?string $by, ?\DateTimeImmutable $at = null): SavedEvent
    {
        $at ??= $this->clock->now();

        return $this->entities->wrapInTransaction(function () use ($id, $values, $version, $by, $at): SavedEvent {
            $this->editions->hold();
            $store = $this->store($at);
            $stored = $store->lock($id) ?? throw self::nothing($id);
            if ($version !== null && $stored->version !== $version) {
                throw new Problem(412, sprintf('Somebody saved %s since you opened it.', $id), 'Nothing was overwritten. Compare both and decide.', [], ['current' => $stored->toArray()]);
            }

            return $this->handle(Event::changed($stored->record->type, $id, $values, $by, $at->format(\DATE_ATOM)), $store, $at);
        });
    }

    /**
     * What the rules would make of it. Saves nothing.
     *
     * @param  array<string, mixed>  $values
     */
    public function dryRun(?string $id, ?string $type, array $values, ?string $by): Outcome
    {
        $at = $this->clock->now();
        $store = $this->store($at, writes: false);
        if ($id !== null) {
            $record = $store->find($id) ?? throw self::nothing($id);
            $event = Event::changed($record->type, $id, $values, $by, $at->format(\DATE_ATOM));
        } else {
            $of = $this->type((string) $type);
            $event = Event::created($of->key, ($of->short ?? 'N').'-new', $values, $by, $at->format(\DATE_ATOM));
        }

        return (new Engine($this->rulebook()))->handle($event, $store, TraceLevel::Full);
    }

    /**
     * What remains to choose from in a field, with the values given but not saved.
     *
     * @param  array<string, mixed>  $values
     * @return array{options: list<string>|null, records: list<array{id: string, name: string}>|null} options of a choice, or at most 50 records of a reference
     */
    public function choices(?string $id, ?string $type, array $values, string $field, string $words, ?string $by): array
    {
        $at = $this->clock->now();
        $store = $this->store($at, writes: false);
        $record = $id === null ? null : ($store->find($id) ?? throw self::nothing($id));
        $of = $this->type($record->type ?? (string) $type);
        $event = $record === null ? Event::created($of->key, ($of->short ?? 'N').'-new', $values, $by, $at->format(\DATE_ATOM)) : Event::changed($of->key, $record->id, $values, $by, $at->format(\DATE_ATOM));
        $limited = $of->fields[$field] ?? throw new Problem(422, 'There is no such field.', '', [['pointer' => '/field', 'detail' => sprintf('%s has no field "%s".', $of->title, mb_strimwidth($field, 0, 40, '…'))]]);
        $choices = new Choices($this->rulebook(), $store, $event);
        if ($limited->to === null) {
            return ['options' => $choices->among($field, array_map(strval(...), array_keys($limited->options))), 'records' => null];
        }
        $found = [];
        foreach ($this->records->namesInPages($limited->to, $words) as $page) {
            // fetched as a set, so that judging each costs no query
            $store->findMany(array_keys($page));
            foreach ($choices->among($field, array_map(strval(...), array_keys($page))) as $one) {
                $found[] = ['id' => $one, 'name' => $page[$one]];
            }
            if (count($found) >= 50) {
                break;
            }
        }

        return ['options' => null, 'records' => array_slice($found, 0, 50)];
    }

    public function ticket(string $id): StoredRecord
    {
        $stored = $this->records->find($id, $this->rulebook());
        if ($stored === null || ($this->rulebook()->types[$stored->record->type] ?? null)?->isTicket !== true) {
            throw self::nothing($id);
        }

        return $stored;
    }

    /**
     * @param  list<array<string, mixed>>  $values  of records, by field
     * @return array<string, string> names of the records that they refer to
     */
    public function names(array $values): array
    {
        $ids = [];
        array_walk_recursive($values, function (mixed $value) use (&$ids): void {
            if (is_string($value) && preg_match('~^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$~', $value) === 1 && preg_match('~[A-Z]~', $value) === 1) {
                $ids[$value] = true;
            }
        });

        return $this->records->namesOf(array_map(strval(...), array_keys($ids)));
    }

    private function type(string $key): RecordType
    {
        $types = $this->rulebook()->types;
        if (isset($types[$key])) {
            return $types[$key];
        }
        $near = Nearest::to($key, array_map(strval(...), array_keys($types)));
        throw new Problem(422, 'There is no such record type.', 'Nothing was saved.', [['pointer' => '/type', 'detail' => sprintf('"%s" is not a record type%s', mb_strimwidth($key, 0, 40, '…'), $near === null ? '.' : '; did you mean "'.$near.'"?')]]);
    }

    /** Brings what follows from other fields and records into line; whether that changed anything. */
    public function bringIntoLine(string $id): bool
    {
        $at = $this->clock->now();

        return $this->entities->wrapInTransaction(function () use ($id, $at): bool {
            $this->editions->hold();
            $store = $this->store($at);
            $stored = $store->lock($id);
            if ($stored === null) {
                return false;
            }
            $counted = [];
            foreach ($this->rulebook()->types[$stored->record->type]->fields ?? [] as $field) {
                if ($field->tally !== null) {
                    $counted[$field->key] = (new Tallies($this->rulebook()))->recount($field, $stored->record, $store);
                }
            }
            $event = Event::followed($stored->record->type, $id, $counted, $at->format(\DATE_ATOM));
            if ((new Engine($this->rulebook()))->handle($event, $store, TraceLevel::Outcome)->changes === []) {
                return false;
            }
            $this->handle($event, $store, $at);

            return true;
        });
    }

    private function handle(Event $event, DoctrineStore $store, \DateTimeImmutable $at): SavedEvent
    {
        $start = hrtime(true);
        $outcomes = (new Cascade($this->rulebook()))->run($event, $store);
        $outcome = $outcomes[0];
        $ms = round((hrtime(true) - $start) / 1e6, 2);
        if ($outcome->isRefused()) {
            throw new Problem(422, sprintf('The %s was not saved.', mb_strtolower($this->rulebook()->types[$event->type]->title ?? 'record')), 'Nothing was saved and no rule ran. Mend what is listed and save again.', array_map(fn (array $r): array => ['pointer' => '/values/'.$r['field'], 'detail' => $r['reason']], $outcome->refused));
        }
        foreach ($outcome->problems as $problem) {
            if ($problem['rule'] === null && $problem['field'] === null) {
                $this->logger->critical('{message}', ['message' => $problem['message'], 'record' => $event->id]);
            }
        }
        foreach (array_slice($outcomes, 1) as $other) {
            $store->save($other->record);
            $this->entities->persist($this->runOf(Event::changed($other->record->type, $other->record->id, [], null, $event->at), $other, $at, 0.0));
        }
        $store->save($outcome->record);
        $run = $this->runOf($event, $outcome, $at, $ms);
        $this->entities->persist($run);

        return new SavedEvent($store->stored($event->id) ?? throw new \LogicException('What was just saved is gone.'), $run);
    }

    private function runOf(Event $event, Outcome $outcome, \DateTimeImmutable $at, float $ms): Run
    {
        return new Run(
            $event->id, $event->type, $event->kind->value, $event->by, $at, $this->editions->currentNumber(), $event->values,
            $outcome->before === null ? null : Record::json($outcome->before->values), Record::json($outcome->record->values), $outcome->changes,
            array_map(fn (RuleStatus $s): string => $s->value, $outcome->rules), $outcome->problems, $outcome->trace, $ms,
        );
    }

    private function store(\DateTimeImmutable $at, bool $writes = true): DoctrineStore
    {
        return new DoctrineStore($this->records, $this->rulebook(), $at, $writes);
    }

    private static function nothing(string $id): Problem
    {
        return new Problem(404, sprintf('There is no ticket "%s".', mb_strimwidth($id, 0, 40, '…')), 'Check the number.');
    }
}
