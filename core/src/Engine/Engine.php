<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;

/**
 * Event in, settled record and trace out. Knows no clock and no database, and saves nothing: that is the caller's.
 */
final class Engine
{
    public const MAX_PASSES = 10;

    public function __construct(private readonly Rulebook $rulebook)
    {
    }

    /** A record as it is given, with its derived fields; no event, no rules. */
    public function derived(Record $record, RecordStore $store, string $at): Record
    {
        $type = $this->rulebook->types[$record->type];
        if ($type->derived === []) {
            return $record;
        }
        $viewer = new Viewer($this->rulebook, $store);

        return (new Settling(Event::changed($type->key, $record->id, [], null, $at), $type, $record, $record, $viewer, new Guards([], $viewer), false))->record();
    }

    /**
     * @param  array<string, list<Formula>>  $probes  by rule: formulas to evaluate just before that rule looks, changing nothing
     * @param  RecordStore|null  $past  other records as they were before what led to this event
     *
     * @throws \OutOfBoundsException when the event names a type or a record that is not there
     */
    public function handle(Event $event, RecordStore $store, TraceLevel $level = TraceLevel::Full, array $probes = [], ?RecordStore $past = null): Outcome
    {
        $type = $this->rulebook->types[$event->type] ?? throw new \OutOfBoundsException(sprintf('There is no record type "%s".', $event->type));
        $before = $event->kind === EventKind::Created ? null : $store->find($event->id);
        if ($event->kind === EventKind::Changed && $before === null) {
            throw new \OutOfBoundsException(sprintf('There is no record "%s".', $event->id));
        }
        $viewer = new Viewer($this->rulebook, $store);
        $guards = new Guards($this->rulebook->guardsOn($type->key), $viewer);
        $arrival = new Arrival($event, $type, $before, $viewer, $guards);
        [$record, $refused, $problems] = $arrival->take();
        $run = new Settling($event, $type, $before, $record, $viewer, $guards, $level === TraceLevel::Full, $probes, $past === null ? null : new Viewer($this->rulebook, $past));
        if ($refused === []) {
            try {
                $run->settle($this->rulebook->rulesOn($type->key));
            } catch (\Throwable $failure) {
                $run = new Settling($event, $type, $before, $record, $viewer, $guards, $level === TraceLevel::Full);
                $problems[] = ['rule' => null, 'field' => null, 'message' => 'The engine failed, and the save went through without rules: '.$failure->getMessage()];
            }
            $refused = [...$run->refused(), ...$arrival->missing($run->record())];
            $run->stamp();
            $run->probeRest($this->rulebook->rulesOn($type->key));
        }

        return $run->outcome($refused, $problems, array_keys($arrival->tripped));
    }
}
