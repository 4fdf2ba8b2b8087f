<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\EvaluationStopped;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Guard\Guards;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\StoreFailure;
use Sorvel\Core\Model\Viewer;

/**
 * Event in, settled record and trace out. Knows no clock and no database, and saves nothing: that is the caller's.
 */
final class Engine
{
    public const MAX_PASSES = 10;

    /** @var array<string, array{array<int, Plan>, array{\Closure, \Closure}|null, Frame}> what is compiled of a type: its rules by place, a pass over all of them, and what stands around them */
    private array $compiled = [];

    public function __construct(private readonly Rulebook $rulebook)
    {
    }

    /** @return array{array<int, Plan>, array{\Closure, \Closure}|null, Frame} */
    private function compiled(RecordType $type): array
    {
        return $this->compiled[$type->key] ??= [CompiledRules::of($this->rulebook, $type), CompiledRules::passing($this->rulebook, $type), CompiledRules::frame($this->rulebook, $type)];
    }

    /** @return list<array{field: string, reason: string}> why a record cannot go: what refers to it */
    private function holding(Record $record, RecordStore $store): array
    {
        $reasons = [];
        foreach ($this->rulebook->types as $type) {
            foreach ($type->fields as $field) {
                $ids = $field->to === $record->type && ! $field->isComputed() ? array_values(array_diff($store->referring($type->key, $field->key, [$record->id]), [$record->id])) : [];
                if ($ids !== []) {
                    $who = count($ids) === 1 ? 'a '.mb_strtolower($type->title).' refers to it' : sprintf('%d records of %s refer to it', count($ids), mb_strtolower($type->title));
                    $reasons[] = ['field' => 'id', 'reason' => sprintf('%s cannot be deleted: %s by "%s": %s. Change those first.', $this->rulebook->types[$record->type]->nameOf($record), $who, $field->label, implode(', ', array_slice($ids, 0, 5)).(count($ids) > 5 ? ' …' : ''))];
                }
            }
        }

        return $reasons;
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

    /** What comes in, the short way; null where it takes more to know. */
    private static function begin(Frame $frame, Event $event, ?Record $before, EventScope $scope, Viewer $viewer): ?Begun
    {
        try {
            return $frame->begin === null ? null : ($frame->begin)($event, $before, $scope, $viewer);
        } catch (EvaluationStopped) {
            return null;
        }
    }

    /**
     * @param  array<string, list<Formula>>  $probes  by rule: formulas to evaluate just before that rule looks, changing nothing
     * @param  RecordStore|null  $past  other records as they were before what led to this event
     * @param  int  $way  0 with all rules of the type in one go, 1 rule by rule, 2 without anything that is compiled
     *
     * @throws \OutOfBoundsException when the event names a type or a record that is not there
     */
    public function handle(Event $event, RecordStore $store, TraceLevel $level = TraceLevel::Full, array $probes = [], ?RecordStore $past = null, int $way = 0): Outcome
    {
        $type = $this->rulebook->types[$event->type] ?? throw new \OutOfBoundsException(sprintf('There is no record type "%s".', $event->type));
        $before = $event->kind === EventKind::Created ? null : $store->find($event->id);
        if (! $event->isOpening() && $before === null) {
            throw new \OutOfBoundsException(sprintf('There is no record "%s".', $event->id));
        }
        $viewer = new Viewer($this->rulebook, $store);
        [$plans, $passing, $frame] = $way < 2 ? $this->compiled($type) : [[], null, new Frame];
        $guards = new Guards($this->rulebook->guardsByEffect($type->key), $viewer, $frame);
        $arrival = new Arrival($event, $type, $before, $viewer, $guards);
        $scope = $frame->begin !== null && $past === null && $arrival->isCommon() ? new EventScope($event, $type, $before, $before ?? new Record($event->id, $type->key, []), $viewer) : null;
        $begun = $scope === null ? null : self::begin($frame, $event, $before, $scope, $viewer);
        [$record, $refused, $problems] = $scope === null || $begun === null ? $arrival->take() : [$scope->record(), [], []];
        $run = new Settling($event, $type, $before, $record, $viewer, $guards, $level === TraceLevel::Full, $probes, $past === null ? null : new Viewer($this->rulebook, $past), $probes === [] ? $plans : [], $probes === [] && $way === 0 ? $passing : null, $frame, $begun, $begun === null ? null : $scope);
        if ($refused === []) {
            try {
                $run->settle($this->rulebook->rulesOn($type->key));
            } catch (StoreFailure $failure) {
                throw $failure;
            } catch (\Throwable $failure) {
                if ($failure instanceof EvaluationStopped && $way < 2) {
                    // what takes more to know, or is too long for all of them at once
                    return $this->handle($event, $store, $level, $probes, $past, $way + 1);
                }
                $run = new Settling($event, $type, $before, $record, $viewer, $guards, $level === TraceLevel::Full);
                $problems[] = ['rule' => null, 'field' => null, 'message' => 'The engine failed, and the save went through without rules: '.$failure->getMessage()];
            }
            $refused = [...$run->refused(), ...($event->kind === EventKind::Deleted ? [] : $arrival->missing($run->record()))];
            $run->stamp();
            $run->probeRest($this->rulebook->rulesOn($type->key));
        }

        $outcome = $run->outcome($refused, $problems, array_keys($arrival->tripped));

        return $event->kind === EventKind::Deleted && $before !== null ? $outcome->ofDeletion($this->holding($before, $store)) : $outcome;
    }
}
