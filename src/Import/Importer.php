<?php

declare(strict_types=1);

namespace Sorvel\App\Import;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Exception\RetryableException;
use Doctrine\ORM\EntityManagerInterface;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Sorvel\App\Desk\Desk;
use Sorvel\App\Desk\DoctrineStore;
use Sorvel\App\Desk\Records;
use Sorvel\App\Desk\SavedEvent;
use Sorvel\App\Edition\Editions;
use Sorvel\App\Run\Run;
use Sorvel\App\Run\RunLog;
use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\OverlayStore;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Impact\WatchedStore;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\StoreFailure;
use Symfony\Component\Messenger\Attribute\AsMessageHandler;

/** Works an import through, a chunk of rows in a transaction; each row is an event like any other, held to guards and rules. */
#[AsMessageHandler]
final class Importer
{
    private const CHUNK = 100;

    private const TRIES = 4;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly Connection $database,
        private readonly Desk $desk,
        private readonly Records $records,
        private readonly Editions $editions,
        private readonly ImportRows $rows,
        private readonly ClockInterface $clock,
        private readonly LoggerInterface $logger,
        private readonly RunLog $log,
    ) {
    }

    public function __invoke(WorkOnImport $message): void
    {
        $import = $this->entities->find(Import::class, $message->import);
        if ($import?->stage()->isAtWork() !== true) {
            return;
        }
        // two imports into one type go one after the other, so that neither makes what the other has just made
        $lock = 'sorvel-'.hash('xxh64', $this->database->getDatabase().'|'.$import->type());
        $this->database->fetchOne('SELECT GET_LOCK(?, 3600)', [$lock]);
        try {
            match ($import->stage()) {
                Stage::Trying => $this->try($import),
                Stage::Running => $this->run($import),
                default => $this->undo($import),
            };
        } catch (\Throwable $failure) {
            $this->logger->error('Import {id} stopped: {why}', ['id' => $message->import, 'why' => $failure->getMessage(), 'exception' => $failure]);
            $this->reaches($message->import, Stage::Stopped, 'It stopped at something unforeseen, which has been logged; what was done stands, and it can be begun again.');
        } finally {
            $this->database->fetchOne('SELECT RELEASE_LOCK(?)', [$lock]);
        }
    }

    /** Every row's fate, as if all were done one after the other; nothing is saved. */
    private function try(Import $import): void
    {
        $at = $this->clock->now();
        $overlay = new OverlayStore($this->desk->store($at, writes: false));
        $reader = new RowReader($import, $this->desk->rulebook(), $this->records);
        $cascade = new Cascade($this->desk->rulebook());
        $role = $this->desk->roleOf($import->by() === '' ? null : $import->by());
        for ($after = 0; ($chunk = $this->rows->next($import->id(), $after, self::CHUNK, isTrial: true)) !== []; $after = $chunk[count($chunk) - 1]['number']) {
            $this->entities->wrapInTransaction(function () use ($import, $chunk, $reader, $overlay, $cascade, $role, $at): void {
                $reader->begin($chunk, $overlay);
                $fates = [];
                foreach ($chunk as $one) {
                    $row = $reader->read($one, $overlay);
                    $reasons = $row->reasons;
                    $fate = $row->fate;
                    if ($reasons === []) {
                        $outcomes = $cascade->run($this->event($import, $row, $row->record ?? 'new-'.$row->number, $role, $at), $overlay, TraceLevel::Outcome);
                        $reasons = array_column($outcomes[0]->refused, 'reason');
                        foreach ($reasons === [] ? $outcomes : [] as $outcome) {
                            $overlay->save($outcome->record);
                        }
                        $fate = $row->record !== null && $fate === 'update' && $outcomes[0]->changes === [] ? 'same' : $fate;
                    }
                    $fates[] = new RowFate($row->number, $reasons === [] ? $fate : 'refused', $reasons, $fate === 'create' ? null : $row->record, false);
                }
                $this->rows->become($import->id(), $fates);
            });
            if ($this->isStopped($import->id(), Stage::Trying)) {
                return;
            }
        }
        $this->reaches($import->id(), Stage::Tried);
    }

    private function run(Import $import): void
    {
        $id = $import->id();
        $reader = new RowReader($import, $this->desk->rulebook(), $this->records);
        for ($after = 0; ($chunk = $this->rows->next($id, $after, self::CHUNK, isTrial: false)) !== []; $after = $chunk[count($chunk) - 1]['number']) {
            $this->again(function () use ($import, $chunk, $reader): void {
                $this->editions->hold();
                $at = $this->clock->now();
                $store = $this->desk->store($at, buffered: true);
                $cascade = new Cascade($this->desk->rulebook());
                $role = $this->desk->roleOf($import->by() === '' ? null : $import->by());
                $store->hold($reader->begin($chunk, $store));
                $cascade->foresee(array_map(fn (array $one): Event => $this->event($import, $row = $reader->read($one, $store), $row->record ?? 'new-'.$row->number, $role, $at), $chunk), $store);
                [$fates, $runs, $others] = [[], [], []];
                foreach ($chunk as $row) {
                    [$fates[], $saved] = $this->save($import, $reader->read($row, $store), $store, $cascade, $role, $at);
                    foreach ($saved === null ? [] : [$saved->run] as $run) {
                        $runs[] = $run;
                    }
                    foreach ($saved->others ?? [] as $run) {
                        $others[$run->record()][] = $run;
                    }
                }
                // a record that many rows move is told of once
                array_push($runs, ...array_map(Run::together(...), array_values($others)));
                $store->flush();
                $this->rows->become($import->id(), $fates);
                $this->log->write($runs);
            });
            $this->entities->clear();
            if ($this->isStopped($id, Stage::Running)) {
                return;
            }
        }
        $this->reaches($id, Stage::Done);
    }

    /** @return array{RowFate, SavedEvent|null} */
    private function save(Import $import, ReadRow $row, DoctrineStore $store, Cascade $cascade, ?\Sorvel\Core\Model\Role $role, \DateTimeImmutable $at): array
    {
        if ($row->reasons !== []) {
            return [new RowFate($row->number, 'refused', $row->reasons, null, true), null];
        }
        $begun = hrtime(true);
        $event = $this->event($import, $row, $row->record ?? $store->newId($this->desk->rulebook()->types[$import->type()]), $role, $at);
        $watched = new WatchedStore($store);
        $outcomes = $cascade->run($event, $watched);
        $outcome = $outcomes[0];
        if ($outcome->isRefused()) {
            return [new RowFate($row->number, 'refused', array_column($outcome->refused, 'reason'), null, true), null];
        }
        if ($row->fate === 'update' && $outcome->changes === []) {
            return [new RowFate($row->number, 'same', [], $event->id, true), null];
        }
        $saved = $this->desk->keep($event, $outcomes, $store, $at, round((hrtime(true) - $begun) / 1e6, 2), $watched);
        $undo = ['before' => [], 'after' => []];
        foreach ($this->desk->rulebook()->types[$import->type()]->fields as $field) {
            $before = Record::plain($outcome->before?->value($field->key));
            $after = Record::plain($outcome->record->value($field->key));
            if (! $field->fixed && ! Record::same($before, $after)) {
                $undo['before'][$field->key] = $before;
                $undo['after'][$field->key] = $after;
            }
        }

        return [new RowFate($row->number, $row->fate, [], $event->id, true, $undo), $saved];
    }

    /** Last first: what was made goes, what was changed goes back; what others have changed since stays, and is told. */
    private function undo(Import $import): void
    {
        $id = $import->id();
        while (($chunk = $this->rows->toUndo($id, self::CHUNK)) !== []) {
            $this->again(function () use ($import, $chunk): void {
                $this->editions->hold();
                $at = $this->clock->now();
                $store = $this->desk->store($at);
                $store->hold(array_column($chunk, 'record'));
                foreach ($chunk as $row) {
                    $kept = $this->takeBack($import, $row['record'], $row['fate'] === 'create', $row['undo'], $store, $at);
                    $this->rows->undone($import->id(), $row['number'], $kept !== null, $kept ?? '');
                }
            });
            $this->entities->clear();
            if ($this->isStopped($id, Stage::Undoing)) {
                return;
            }
        }
        $this->reaches($id, Stage::Undone);
    }

    /**
     * @param  array<string, mixed>  $undo
     * @return string|null why it stays as it is
     */
    private function takeBack(Import $import, string $record, bool $wasMade, array $undo, DoctrineStore $store, \DateTimeImmutable $at): ?string
    {
        $now = $store->find($record);
        if ($now === null) {
            return $wasMade ? null : 'The record is no longer there.';
        }
        $after = is_array($undo['after'] ?? null) ? $undo['after'] : [];
        $before = is_array($undo['before'] ?? null) ? $undo['before'] : [];
        $others = array_filter(array_map(strval(...), array_keys($after)), fn (string $field): bool => ! Record::same(Record::plain($now->value($field)), $after[$field]));
        if ($others !== []) {
            return 'Changed since: '.implode(', ', $others).'.';
        }
        $moment = $at->format(\DATE_ATOM);
        $event = $wasMade ? Event::deleted($now->type, $record, $import->by() === '' ? null : $import->by(), $moment) : Event::changed($now->type, $record, $before, null, $moment);
        $watched = new WatchedStore($store);
        $outcomes = (new Cascade($this->desk->rulebook()))->run($event, $watched);
        if ($outcomes[0]->isRefused()) {
            return implode(' ', array_column($outcomes[0]->refused, 'reason'));
        }
        $saved = $this->desk->keep($event, $outcomes, $store, $at, 0.0, $watched);
        $this->log->write([...$saved->others, $saved->run]);

        return null;
    }

    private function event(Import $import, ReadRow $row, string $id, ?\Sorvel\Core\Model\Role $role, \DateTimeImmutable $at): Event
    {
        $moment = $at->format(\DATE_ATOM);

        return $row->fate === 'create' ? Event::created($import->type(), $id, $row->values, $import->by() === '' ? null : $import->by(), $moment, $role) : Event::changed($import->type(), $id, $row->values, $import->by() === '' ? null : $import->by(), $moment, $role);
    }

    /** A chunk in one transaction; where another save came in between, once more. */
    private function again(\Closure $work): void
    {
        for ($try = 1; ; $try++) {
            try {
                $this->entities->wrapInTransaction($work);

                return;
            } catch (RetryableException|StoreFailure $lost) {
                $lost = $lost instanceof StoreFailure ? $lost->getPrevious() ?? $lost : $lost;
                if (! $lost instanceof RetryableException || $try === self::TRIES || ! $this->entities->isOpen()) {
                    throw $lost;
                }
                usleep(50_000 * $try);
            } finally {
                $this->editions->release();
            }
        }
    }

    /** Whether somebody stopped it meanwhile. */
    private function isStopped(int $id, Stage $stage): bool
    {
        return $this->database->fetchOne('SELECT stage FROM import WHERE id = ?', [$id]) !== $stage->value;
    }

    private function reaches(int $id, Stage $stage, string $problem = ''): void
    {
        $this->database->update('import', ['stage' => $stage->value, 'problem' => mb_strimwidth($problem, 0, 1000, '…')], ['id' => $id]);
    }
}
