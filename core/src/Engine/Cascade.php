<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\Walk;
use Sorvel\Core\Impact\WatchedStore;
use Sorvel\Core\Model\Dependency;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\StoreFailure;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Tally\Tallies;

/**
 * One event with its follow-ups (8 of "One event"): what other records take over from the one that changed is an event
 * on each of them, with its own passes. Writes to no store; what it came to is the caller's to save, in order.
 */
final class Cascade
{
    public const MAX_DEPTH = 5;

    public const MAX_RECORDS = 10_000;

    /** Of more records that follow in one step, only what came of each is told */
    private const MOST_TRACED = 200;

    private readonly Engine $engine;

    private readonly Tallies $tallies;

    public function __construct(private readonly Rulebook $rulebook)
    {
        $this->engine = new Engine($rulebook);
        $this->tallies = new Tallies($rulebook);
    }

    /**
     * @param  array<string, list<Formula>>  $probes  by rule, for the event itself
     * @return non-empty-list<Outcome> that of the event, then those of other records that changed or were made, in order
     */
    public function run(Event $event, RecordStore $store, TraceLevel $level = TraceLevel::Full, array $probes = []): array
    {
        $main = $this->engine->handle($event, $store, $level, $probes);
        if ($store instanceof WatchedStore) {
            $store->settled();
        }
        if ($main->isRefused() || ($this->rulebook->dependencies === [] && $this->rulebook->related() === [] && $this->tallies->isEmpty() && $main->actions === [])) {
            return [$main];
        }
        try {
            [$others, $problems] = $this->follow($main, $event->at, $store, $level);
        } catch (StoreFailure $failure) {
            throw $failure;
        } catch (\Throwable $failure) {
            // the save itself stands; nothing of what follows is half done
            [$others, $problems] = [[], [['rule' => null, 'field' => null, 'message' => 'The engine failed at what follows from this, and nothing of that was done: '.$failure->getMessage()]]];
        }

        return [$problems === [] ? $main : $main->withProblems($problems), ...$others];
    }

    /**
     * @return array{list<Outcome>, list<array{rule: string|null, field: string|null, message: string}>}
     */
    private function follow(Outcome $main, string $at, RecordStore $store, TraceLevel $level): array
    {
        $overlay = new OverlayStore($store);
        $this->keep($main, $overlay);
        $others = [];
        $problems = [];
        $wave = [$main];
        $count = 0;
        $chain = [[$main->record->id]];
        $rules = [];
        for ($depth = 1; $wave !== []; $depth++) {
            $tallies = $this->tallies->moved($wave, $overlay);
            $orders = self::orders($wave);
            $creations = array_merge(...array_map(fn (Outcome $o): array => array_values(array_filter($o->actions, fn (Action $a): bool => $a->kind === 'create')), $wave));
            $related = $this->relatedTo($wave, $overlay);
            $ids = array_values(array_unique([...array_map(strval(...), array_keys($tallies)), ...$this->followers($wave, $overlay), ...array_map(strval(...), array_keys($related)), ...array_map(strval(...), array_keys($orders))]));
            if ($ids === [] && $creations === []) {
                break;
            }
            $count += count($ids) + count($creations);
            if ($depth > self::MAX_DEPTH || $count > self::MAX_RECORDS) {
                // nothing of it is half done
                return [[], $depth > self::MAX_DEPTH ? self::endless($rules, $chain) : [['rule' => null, 'field' => null, 'message' => sprintf('More than %s records would follow this; nothing of it was done.', number_format(self::MAX_RECORDS))]]];
            }
            $overlay->hold($ids);
            $overlay->findMany($ids);
            $wave = [];
            $told = count($ids) > self::MOST_TRACED ? TraceLevel::Outcome : $level;
            $events = [];
            foreach ($ids as $id) {
                $record = $overlay->find($id);
                if ($record !== null) {
                    $events[] = [Event::followed($record->type, $id, $tallies[$id] ?? [], $at, $related[$id] ?? [], $orders[$id] ?? []), array_map(fn (Order $o): string => $o->rule, $orders[$id] ?? [])];
                }
            }
            foreach ($creations as $creation) {
                $type = $this->rulebook->types[is_string($creation->data['type']) ? $creation->data['type'] : ''];
                /** @var array<string, mixed> $with */
                $with = $creation->data['with'];
                $events[] = [Event::created($type->key, $overlay->newId($type), $with, null, $at), [$creation->rule]];
            }
            foreach ($events as [$event, $from]) {
                $outcome = $this->engine->handle($event, $overlay, $told, [], $store);
                if ($outcome->isRefused()) {
                    $message = $event->kind === EventKind::Created
                        ? sprintf('A %s was not created: %s', mb_strtolower($this->rulebook->types[$event->type]->title), implode(' ', array_column($outcome->refused, 'reason')))
                        : sprintf('%s does not follow: %s', $event->id, implode(' ', array_column($outcome->refused, 'reason')));
                    foreach ($from === [] ? [null] : array_unique($from) as $rule) {
                        $problems[] = ['rule' => $rule, 'field' => null, 'message' => $message];
                    }
                } elseif ($outcome->isChange()) {
                    $this->keep($outcome, $overlay);
                    $wave[] = $outcome;
                    $others[] = $outcome;
                } else {
                    array_push($problems, ...$outcome->problems);
                }
            }
            $chain[] = array_map(fn (Outcome $o): string => $o->record->id, $wave);
            foreach ($wave as $outcome) {
                array_push($rules, ...array_map(strval(...), array_keys(array_filter($outcome->rules(), fn (RuleStatus $s): bool => $s === RuleStatus::Acted))));
            }
        }

        return [$others, $problems];
    }

    private function keep(Outcome $outcome, OverlayStore $store): void
    {
        if ($outcome->deleted) {
            $store->delete($outcome->record->id);
        } else {
            $store->save($outcome->record);
        }
        foreach ($outcome->turns as $team => $person) {
            $store->takeTurn($team, $person);
        }
    }

    /**
     * @param  list<string>  $rules  that acted on the way
     * @param  non-empty-list<list<string>>  $chain  ids of the records that changed, by depth
     * @return list<array{rule: string|null, field: string|null, message: string}>
     */
    private static function endless(array $rules, array $chain): array
    {
        $way = implode(' → ', array_map(fn (array $ids): string => count($ids) > 2 ? sprintf('%s and %d more', $ids[0], count($ids) - 1) : implode(' and ', $ids), $chain));
        $rules = array_values(array_unique($rules));
        $message = $rules === []
            ? sprintf('What follows from this goes on for more than %d records in a row (%s); nothing of it was done. Records that take over from each other in a circle may be why.', self::MAX_DEPTH, $way)
            : sprintf('The records do not settle: %s from record to record for more than %d in a row (%s); nothing of what follows was done.', implode(', ', $rules).(count($rules) === 1 ? ' goes on' : ' go on'), self::MAX_DEPTH, $way);

        return array_map(fn (?string $rule): array => ['rule' => $rule, 'field' => null, 'message' => $message], $rules === [] ? [null] : $rules);
    }

    /**
     * @param  list<Outcome>  $wave
     * @return array<string, list<Order>> by record
     */
    private static function orders(array $wave): array
    {
        $orders = [];
        foreach ($wave as $outcome) {
            foreach ($outcome->actions as $action) {
                if ($action->change !== null) {
                    $order = new Order($action->rule, $action->record, $action->change, $action->cell);
                    foreach ($action->ids as $id) {
                        $orders[$id][] = $order;
                    }
                }
            }
        }

        return $orders;
    }

    /**
     * Records whose rules look because a record that they refer to has changed.
     *
     * @param  list<Outcome>  $wave
     * @return array<string, array<string, array<string, list<string>>>> fields that changed, by record, reference and the record that it points to
     */
    private function relatedTo(array $wave, OverlayStore $store): array
    {
        $related = [];
        foreach ($this->rulebook->related() as $to => $starts) {
            $changed = [];
            foreach ($wave as $outcome) {
                if ($outcome->record->type === $to && $outcome->before !== null && ! $outcome->deleted) {
                    $changed[$outcome->record->id] = array_values(array_unique(array_column($outcome->changes, 'field')));
                }
            }
            foreach ($changed === [] ? [] : $starts as [$type, $start]) {
                $from = array_filter($changed, fn (array $fields): bool => $start->fields === [] ? $fields !== [] : array_intersect($start->fields, $fields) !== []);
                $ids = $from === [] ? [] : $store->referring($type, $start->via, array_map(strval(...), array_keys($from)));
                foreach ($store->findMany($ids) as $record) {
                    foreach ((array) $record->value($start->via) as $id) {
                        if (is_string($id) && isset($from[$id])) {
                            $related[$record->id][$start->via][$id] = $from[$id];
                        }
                    }
                }
            }
        }

        return $related;
    }

    /**
     * What a set of events will read, fetched as sets: the records that they refer to, some references on, and what
     * look-ups will ask for.
     *
     * @param  list<Event>  $events
     */
    public function foresee(array $events, RecordStore $store): void
    {
        $before = $store->findMany(array_map(fn (Event $e): string => $e->id, $events));
        $records = [];
        foreach ($events as $event) {
            $record = $before[$event->id] ?? new Record($event->id, $event->type, []);
            $records[] = new Record($record->id, $record->type, [...$record->values, ...array_filter($event->values, fn (mixed $v): bool => ! Record::isEmpty($v))]);
        }
        $seen = [];
        for ($step = 0, $at = $records; $step < 4 && $at !== []; $step++) {
            $ids = [];
            foreach ($at as $record) {
                foreach ($this->rulebook->types[$record->type]->fields ?? [] as $field) {
                    foreach ($field->to === null ? [] : (array) $record->value($field->key) as $id) {
                        if (is_string($id) && ! isset($seen[$id])) {
                            $ids[$id] = $seen[$id] = true;
                        }
                    }
                }
            }
            $at = $ids === [] ? [] : array_values($store->findMany(array_map(strval(...), array_keys($ids))));
        }
        $wanted = [];
        $viewer = new Viewer($this->rulebook, $store);
        foreach ($events as $i => $event) {
            $type = $this->rulebook->types[$event->type] ?? null;
            if ($type === null) {
                continue;
            }
            $scope = new EventScope($event, $type, null, $records[$i], $viewer);
            foreach ($this->rulebook->rulesOn($type->key) as $rule) {
                foreach ($rule->lookUps as $lookUp) {
                    // what waits for another look-up is asked when that is known
                    $isReady = $lookUp->type !== null && $lookUp->where !== null && array_intersect(Walk::names($lookUp->where->tree), array_keys($rule->lookUps)) === [];
                    foreach ($isReady ? $lookUp->criteria->conditions($scope, $viewer) ?? [] : [] as $condition) {
                        foreach ($condition->test === 'in' && $condition->field !== 'id' ? $condition->values : [] as $value) {
                            $wanted[$lookUp->type->key ?? ''][$condition->field][] = $value;
                        }
                    }
                }
            }
        }
        foreach ($wanted as $type => $fields) {
            foreach ($fields as $field => $values) {
                $store->foresee((string) $type, $field, $values);
            }
        }
    }

    /**
     * Records that take something over from what has changed, each once.
     *
     * @param  list<Outcome>  $wave
     * @return list<string>
     */
    private function followers(array $wave, OverlayStore $store): array
    {
        $ids = [];
        foreach ($this->rulebook->dependencies as $dependency) {
            $from = [];
            foreach ($wave as $outcome) {
                if ($outcome->record->type === $dependency->type && self::changed($outcome, $dependency)) {
                    $from[] = $outcome->record->id;
                }
            }
            foreach ($from === [] ? [] : $dependency->hops as [$type, $field]) {
                $from = $from === [] ? [] : $store->referring($type, $field, $from);
            }
            foreach ($from as $id) {
                $ids[$id] = true;
            }
        }

        return array_map(strval(...), array_keys($ids));
    }

    private static function changed(Outcome $outcome, Dependency $dependency): bool
    {
        $before = $outcome->before?->value($dependency->field);

        return $outcome->before !== null && ! Record::same($before, $outcome->record->value($dependency->field));
    }
}
