<?php

declare(strict_types=1);

namespace Sorvel\App\Desk;

use Doctrine\DBAL\Exception\RetryableException;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Http\Problem;
use Sorvel\App\Note\Note;
use Sorvel\App\Note\Readers;
use Sorvel\App\Notice\Notices;
use Sorvel\App\Outbox\Outbox;
use Sorvel\App\People\Person;
use Sorvel\App\Run\Run;
use Sorvel\App\Run\RunLog;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\EventKind;
use Sorvel\Core\Engine\Message;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Format\Nearest;
use Sorvel\Core\Guard\Choices;
use Sorvel\Core\Impact\PastEvent;
use Sorvel\Core\Impact\WatchedStore;
use Sorvel\Core\Mirror\Mirror;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Role;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\StoreFailure;
use Sorvel\Core\Tally\Tallies;

/** Saves records through the engine: values in, settled record and run out, in one transaction. */
final class Desk
{
    private const TRIES = 5;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Records $records,
        private readonly Editions $editions,
        private readonly ClockInterface $clock,
        private readonly LoggerInterface $logger,
        private readonly RunLog $log,
        private readonly Outbox $outbox,
        private readonly Notices $notices,
    ) {
    }

    public function rulebook(): Rulebook
    {
        return $this->editions->rulebook() ?? throw new Problem(409, 'This desk has no edition in force yet.', 'Publish the draft first.');
    }

    /** @param  array<string, mixed>  $values */
    public function create(string $type, array $values, ?string $by, ?\DateTimeImmutable $at = null, ?string $id = null, ?Role $role = null): SavedEvent
    {
        $at ??= $this->clock->now();

        return $this->atOnce(function () use ($type, $values, $by, $at, $id, $role): SavedEvent {
            $this->editions->hold();
            $of = $this->type($type);
            $store = $this->store($at, buffered: true);
            $event = Event::created($of->key, $id ?? $store->newId($of), $values, $by, $at->format(\DATE_ATOM), $role ?? $this->roleOf($by));

            return $this->handle($event, $store, $at);
        });
    }

    /**
     * @param  array<string, mixed>  $values
     * @param  int|null  $version  the version that the change was made against; null to take any
     */
    public function change(string $id, array $values, ?int $version, ?string $by, ?\DateTimeImmutable $at = null, ?Role $role = null): SavedEvent
    {
        $at ??= $this->clock->now();

        return $this->atOnce(function () use ($id, $values, $version, $by, $at, $role): SavedEvent {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $stored = $this->current($store, $id, $version);

            return $this->handle(Event::changed($stored->record->type, $id, $values, $by, $at->format(\DATE_ATOM), $role ?? $this->roleOf($by)), $store, $at);
        });
    }

    /** Deletes a record that no other refers to; what it counted for follows in the same transaction. */
    public function delete(string $id, ?int $version, string $by, ?\DateTimeImmutable $at = null): void
    {
        $at ??= $this->clock->now();
        $this->atOnce(function () use ($id, $version, $by, $at): void {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $stored = $this->current($store, $id, $version);
            $this->handle(Event::deleted($stored->record->type, $id, $by, $at->format(\DATE_ATOM)), $store, $at);
        });
    }

    /**
     * A message that has come in: about a record, or opening one.
     *
     * @param  string|null  $about  a record; null when it opens one
     * @param  string|null  $opens  the type of what it opens
     */
    public function receive(Message $message, ?string $about, ?string $opens): SavedEvent
    {
        $at = $this->clock->now();

        return $this->atOnce(function () use ($message, $about, $opens, $at): SavedEvent {
            $this->editions->hold();
            $rulebook = $this->rulebook();
            $store = $this->store($at, buffered: true);
            $writer = $message->writer($rulebook);
            if ($about !== null) {
                $stored = $this->current($store, $about, null);
                $event = Event::received($stored->record->type, $about, $message, [], $writer?->key, $at->format(\DATE_ATOM), Role::Agent);
            } else {
                $type = $this->type((string) $opens);
                $event = Event::received($type->key, $store->newId($type), $message, $message->opening($type, $rulebook), $writer?->key, $at->format(\DATE_ATOM), Role::Agent);
            }
            $saved = $this->handle($event, $store, $at);
            $id = $saved->stored->record->id;
            $text = trim($message->text);
            if ($text !== '') {
                $this->entities->persist(new Note($id, Readers::Requester, $writer?->key, $at, mb_strimwidth($text, 0, Note::MAX, '…'), null, mb_strimwidth($message->from, 0, 190, '…')));
            }
            $this->entities->getConnection()->insert('incoming', ['sender' => mb_strimwidth($message->from, 0, 190, '…'), 'subject' => mb_strimwidth($message->subject, 0, 500, '…'), 'text' => $message->text, 'html' => $message->html, 'at' => $at->format('Y-m-d H:i:s'), 'record' => $id, 'opened' => $about === null ? 1 : 0, 'person' => $writer?->key]);

            return $saved;
        });
    }

    /** What a web call came to, for its record; nothing happens where no rule waits for it. */
    public function answered(string $id, string $call, ?int $status, mixed $body, \DateTimeImmutable $at): void
    {
        $this->atOnce(function () use ($id, $call, $status, $body, $at): void {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $stored = $store->lock($id);
            $rulebook = $this->rulebook();
            if ($stored !== null && isset($rulebook->types[$stored->record->type]) && $rulebook->startingOn($stored->record->type, 'answered') !== []) {
                try {
                    $this->handle(Event::answered($stored->record->type, $id, $call, $status, $body, $at->format(\DATE_ATOM)), $store, $at);
                } catch (Problem $refused) {
                    // a rule turned it down: the call is over all the same
                    $this->logger->warning('What came of the call {call} for {record} was turned down: {why}', ['call' => $call, 'record' => $id, 'why' => implode(' ', $refused->details())]);
                }
            }
        });
    }

    /**
     * Events by the clock, as a set in one transaction; one that fails leaves the others alone.
     *
     * @param  list<Event>  $events
     * @return int how many came to something
     */
    public function scheduled(array $events): int
    {
        $at = $this->clock->now();

        return $this->atOnce(function () use ($events, $at): int {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $store->hold(array_map(fn (Event $e): string => $e->id, $events));
            (new Cascade($this->rulebook()))->foresee($events, $store);
            $count = 0;
            $runs = [];
            foreach ($events as $event) {
                if ($store->find($event->id) === null || ! isset($this->rulebook()->types[$event->type])) {
                    continue;
                }
                $start = hrtime(true);
                $watched = new WatchedStore($store);
                $outcomes = (new Cascade($this->rulebook()))->run($event, $watched);
                if ($outcomes[0]->isRefused()) {
                    $this->logger->warning('By the clock, {record} was turned down: {why}', ['record' => $event->id, 'why' => implode(' ', array_column($outcomes[0]->refused, 'reason'))]);

                    continue;
                }
                if ($outcomes[0]->isChange() || $outcomes[0]->problems !== [] || count($outcomes) > 1) {
                    $saved = $this->keep($event, $outcomes, $store, $at, round((hrtime(true) - $start) / 1e6, 2), $watched);
                    array_push($runs, $saved->run, ...$saved->others);
                    $count++;
                }
            }
            $store->flush();
            $this->log->write($runs);

            return $count;
        });
    }

    /**
     * The same wanted of several tickets, as a set in one transaction: what they read is fetched as sets, and a ticket that is
     * turned down leaves the others alone.
     *
     * @param  array<string, int|null>  $tickets  by id: the version that it was made against; null to take any
     * @param  \Closure(string, string, string): Event  $event  by id, type and the moment
     * @return array<string, SavedEvent|Problem> by id
     */
    public function many(array $tickets, \Closure $event): array
    {
        $at = $this->clock->now();

        return $this->atOnce(function () use ($tickets, $event, $at): array {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $store->hold(array_map(strval(...), array_keys($tickets)));
            [$events, $fates] = [[], []];
            foreach ($tickets as $id => $version) {
                try {
                    $stored = $this->atVersion($store->stored((string) $id), (string) $id, $version);
                    $events[$id] = $event((string) $id, $this->ticketType($stored)->key, $at->format(\DATE_ATOM));
                } catch (Problem $problem) {
                    $fates[$id] = $problem;
                }
            }
            (new Cascade($this->rulebook()))->foresee(array_values($events), $store);
            $runs = [];
            foreach ($events as $id => $one) {
                try {
                    $fates[$id] = $this->settle($one, $store, $at);
                    array_push($runs, $fates[$id]->run, ...$fates[$id]->others);
                } catch (Problem $problem) {
                    $fates[$id] = $problem;
                }
            }
            $store->flush();
            $this->log->write($runs);

            return $fates;
        });
    }

    /**
     * What the rules would make of the same change to several tickets, each by itself. Saves nothing.
     *
     * @param  list<string>  $ids
     * @param  array<string, mixed>  $values
     * @return array<string, Outcome|Problem> by id
     */
    public function tryMany(array $ids, array $values, string $by): array
    {
        $at = $this->clock->now();
        $role = $this->roleOf($by);
        $rulebook = $this->rulebook();
        $store = $this->store($at, writes: false);
        $records = $store->findMany($ids);
        [$events, $fates] = [[], []];
        foreach ($ids as $id) {
            $type = $rulebook->types[($records[$id] ?? null)->type ?? ''] ?? null;
            if ($type?->isTicket === true) {
                $events[$id] = Event::changed($type->key, $id, $values, $by, $at->format(\DATE_ATOM), $role);
            } else {
                $fates[$id] = self::nothing($id);
            }
        }
        (new Cascade($rulebook))->foresee(array_values($events), $store);
        foreach ($events as $id => $event) {
            $fates[$id] = (new Engine($rulebook))->handle($event, $store, TraceLevel::Outcome);
        }

        return $fates;
    }

    public function tellOwner(string $rule, ?string $record, string $text, \DateTimeImmutable $at): void
    {
        $this->notices->problem($rule, $record, $text, $this->rulebook(), $at);
    }

    /**
     * All of it or nothing; what was turned down leaves the entity manager fit for what comes next.
     *
     * @template T
     *
     * @param  \Closure(): T  $work
     * @return T
     */
    public function atOnce(\Closure $work): mixed
    {
        $database = $this->entities->getConnection();
        if ($database->isTransactionActive()) {
            return $work();
        }
        for ($try = 1; ; $try++) {
            $database->beginTransaction();
            try {
                $result = $work();
                $this->entities->flush();
                $database->commit();

                return $result;
            } catch (\Throwable $failure) {
                $failure = $failure instanceof StoreFailure ? $failure->getPrevious() ?? $failure : $failure;
                $database->isTransactionActive() && $database->rollBack();
                $this->entities->clear();
                // two saves that waited for each other: the one that lost is done once more
                if (! $failure instanceof RetryableException || $try === self::TRIES || $database->isTransactionActive()) {
                    throw $failure;
                }
                usleep(random_int(5_000, 30_000) * $try);
            } finally {
                $this->editions->release();
            }
        }
    }

    /** A record with a lock on it, as it was read. */
    private function current(DoctrineStore $store, string $id, ?int $version): StoredRecord
    {
        return $this->atVersion($store->lock($id), $id, $version);
    }

    private function atVersion(?StoredRecord $stored, string $id, ?int $version): StoredRecord
    {
        $stored ??= throw self::nothing($id);
        if ($version !== null && $stored->version !== $version) {
            throw new Problem(412, sprintf('Somebody saved %s since you opened it.', $id), 'Nothing was overwritten. Compare both and decide.', [], ['current' => $stored->toArray()]);
        }

        return $stored;
    }

    public function roleOf(?string $by): ?Role
    {
        return $by === null ? null : $this->entities->find(Person::class, $by)?->role()->core();
    }

    /**
     * What the rules would make of it. Saves nothing.
     *
     * @param  array<string, mixed>  $values
     */
    public function dryRun(?string $id, ?string $type, array $values, ?string $by, ?Role $role = null): Outcome
    {
        $at = $this->clock->now();
        $store = $this->store($at, writes: false);
        if ($id !== null) {
            $record = $store->find($id) ?? throw self::nothing($id);
            $event = Event::changed($record->type, $id, $values, $by, $at->format(\DATE_ATOM), $role ?? $this->roleOf($by));
        } else {
            $of = $this->type((string) $type);
            $event = Event::created($of->key, ($of->short ?? 'N').'-new', $values, $by, $at->format(\DATE_ATOM), $role ?? $this->roleOf($by));
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
        $stored = $this->records->find($id, $this->rulebook()) ?? throw self::nothing($id);
        $this->ticketType($stored);

        return $stored;
    }

    private function ticketType(StoredRecord $stored): RecordType
    {
        $type = $this->rulebook()->types[$stored->record->type] ?? null;

        return $type?->isTicket === true ? $type : throw self::nothing($stored->record->id);
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

    /**
     * Values that are not what follows from other fields and records.
     *
     * @param  list<string>  $ids  of one type
     * @return array<string, array<string, array{string, mixed, mixed}>> by record and field: mirror, derived or tally, what is stored, what follows
     */
    public function outOfLine(array $ids): array
    {
        $at = $this->clock->now();
        $store = $this->store($at, writes: false);
        $rulebook = $this->rulebook();
        $found = [];
        foreach ($store->findMany($ids) as $id => $record) {
            $type = $rulebook->types[$record->type];
            $counted = [];
            foreach ($type->fields as $field) {
                if ($field->tally !== null) {
                    $counted = [...$counted, ...(new Tallies($rulebook))->recounted($field, $record, $store)];
                }
            }
            $bound = array_fill_keys(array_map(fn (Mirror $m): string => $m->field, array_filter($rulebook->mirrorsOn($record->type), fn (Mirror $m): bool => $m->isBound())), 'mirror');
            foreach ((new Engine($rulebook))->handle(Event::followed($record->type, $record->id, $counted, $at->format(\DATE_ATOM)), $store, TraceLevel::Outcome)->changes as $change) {
                $field = $type->fields[$change['field']] ?? null;
                $kind = $field?->tally !== null ? 'tally' : ($field?->formula !== null ? 'derived' : $bound[$change['field']] ?? null);
                if ($kind !== null && $change['rule'] === null) {
                    $found[$id][$change['field']] = [$kind, $change['before'], $change['after']];
                }
            }
        }

        return $found;
    }

    /** Brings what follows from other fields and records into line; whether that changed anything. */
    public function bringIntoLine(string $id): bool
    {
        $at = $this->clock->now();

        return $this->atOnce(function () use ($id, $at): bool {
            $this->editions->hold();
            $store = $this->store($at, buffered: true);
            $stored = $store->lock($id);
            if ($stored === null) {
                return false;
            }
            $counted = [];
            foreach ($this->rulebook()->types[$stored->record->type]->fields ?? [] as $field) {
                if ($field->tally !== null) {
                    $counted = [...$counted, ...(new Tallies($this->rulebook()))->recounted($field, $stored->record, $store)];
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
        $saved = $this->settle($event, $store, $at);
        $store->flush();
        $this->log->write([$saved->run, ...$saved->others]);

        return new SavedEvent($store->stored($event->id) ?? $saved->stored, $saved->run, $saved->others);
    }

    /** What an event comes to, in the store; nothing of it when it is turned down. The log is the caller's to write. */
    private function settle(Event $event, DoctrineStore $store, \DateTimeImmutable $at): SavedEvent
    {
        $start = hrtime(true);
        $watched = new WatchedStore($store);
        $outcomes = (new Cascade($this->rulebook()))->run($event, $watched);
        $outcome = $outcomes[0];
        $ms = round((hrtime(true) - $start) / 1e6, 2);
        if ($outcome->isRefused()) {
            throw new Problem($outcome->record->id === $event->id && $event->kind === EventKind::Deleted ? 409 : 422, sprintf($event->kind === EventKind::Deleted ? 'The %s was not deleted.' : 'The %s was not saved.', mb_strtolower($this->rulebook()->types[$event->type]->title ?? 'record')), 'Nothing was saved and no rule ran. Mend what is listed and save again.', array_map(fn (array $r): array => ['pointer' => $r['field'] === '' ? '/values' : ($event->kind === EventKind::ByHand ? '/inputs/' : '/values/').$r['field'], 'detail' => $r['reason']], $outcome->refused));
        }

        return $this->keep($event, $outcomes, $store, $at, $ms, $watched);
    }

    /**
     * Saves what an event came to, in a transaction. Its runs are the caller's to write into the log.
     *
     * @param  non-empty-list<Outcome>  $outcomes  of an event that was not refused, and of its follow-ups
     * @param  WatchedStore  $watched  what it read
     */
    public function keep(Event $event, array $outcomes, DoctrineStore $store, \DateTimeImmutable $at, float $ms, WatchedStore $watched): SavedEvent
    {
        $outcome = $outcomes[0];
        foreach ($outcome->problems as $problem) {
            if ($problem['rule'] === null && $problem['field'] === null) {
                $this->logger->critical('{message}', ['message' => $problem['message'], 'record' => $event->id]);
            }
        }
        $stored = $store->stored($event->id);
        if ($outcome->deleted) {
            $store->delete($event->id);
        } else {
            $store->save($outcome->record);
        }
        // what follows may come back to the record itself, and is later than it
        $others = [];
        foreach (array_slice($outcomes, 1) as $other) {
            $store->save($other->record);
            $others[] = $this->runOf($other->before === null ? Event::created($other->record->type, $other->record->id, [], null, $event->at) : Event::changed($other->record->type, $other->record->id, [], null, $event->at), $other, $at, 0.0);
        }
        $this->act($outcomes, $store, $at);

        return new SavedEvent(($outcome->deleted ? $stored : $store->stored($event->id)) ?? throw new \LogicException('What was just saved is gone.'), $this->runOf($event, $outcome, $at, $ms)->readThrough(PastEvent::of($event, $outcome, $watched)), $others);
    }

    /**
     * What rules want done beside fields, kept in the same transaction.
     *
     * @param  non-empty-list<Outcome>  $outcomes
     */
    private function act(array $outcomes, DoctrineStore $store, \DateTimeImmutable $at): void
    {
        $told = [];
        foreach ($outcomes as $outcome) {
            foreach ($outcome->turns as $team => $person) {
                $store->takeTurn($team, $person);
            }
            foreach ($outcome->actions as $action) {
                if ($action->kind === 'note' && is_string($action->data['text'] ?? null)) {
                    $this->entities->persist(new Note($action->record, Readers::from($action->data['for'] === 'requester' ? 'requester' : 'staff'), null, $at, mb_strimwidth($action->data['text'], 0, Note::MAX, '…'), $action->rule));
                }
            }
            $this->outbox->take($outcome->actions, $at);
            $this->notices->take($outcome->actions, $at);
            foreach ($outcome->problems as $problem) {
                $told[(string) $problem['rule']] ??= [$outcome->record->id, $problem['message']];
            }
        }
        unset($told['']);
        foreach ($told as $rule => [$record, $message]) {
            $this->notices->problem($rule, $record, $message, $this->rulebook(), $at);
        }
    }

    private function runOf(Event $event, Outcome $outcome, \DateTimeImmutable $at, float $ms): Run
    {
        return new Run(
            $event->id, $event->type, $event->kind->value, $event->by, $at, $this->editions->currentNumber(), $event->values,
            $outcome->before === null ? null : Record::json($outcome->before->values), Record::json($outcome->record->values), $outcome->changes,
            array_map(fn (RuleStatus $s): string => $s->value, $outcome->rules()), $outcome->problems, $outcome->trace, $ms,
        );
    }

    public function store(\DateTimeImmutable $at, bool $writes = true, bool $buffered = false): DoctrineStore
    {
        return new DoctrineStore($this->records, $this->rulebook(), $at, $writes, $buffered);
    }

    private static function nothing(string $id): Problem
    {
        return new Problem(404, sprintf('There is no ticket "%s".', mb_strimwidth($id, 0, 40, '…')), 'Check the number.');
    }
}
