<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Cron\CronExpression;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Rule\AtStart;

/** When rules with an `at` start are due, on the desk's clock, and for which records. */
final class Schedule
{
    private readonly \DateTimeZone $zone;

    public function __construct(private readonly Rulebook $rulebook)
    {
        $this->zone = new \DateTimeZone($rulebook->timezone);
    }

    /**
     * Starts with at least one of their times after the one moment and not after the other; times that were missed count
     * once.
     *
     * @return array<string, array<int, \DateTimeImmutable>> the last such time, by rule and place of the start, in running order
     */
    public function due(\DateTimeInterface $from, \DateTimeInterface $to): array
    {
        $due = [];
        foreach ($this->rulebook->rules as $rule) {
            foreach ($rule->enabled ? $rule->starts : [] as $start) {
                if ($start instanceof AtStart) {
                    $last = $this->last($start->cron, $to);
                    if ($last !== null && $last > $from) {
                        $due[$rule->key][$start->place] = $last;
                    }
                }
            }
        }

        return $due;
    }

    /** The next time of a schedule after a moment; null when there is none. */
    public function next(string $cron, \DateTimeInterface $after): ?\DateTimeImmutable
    {
        try {
            return \DateTimeImmutable::createFromMutable((new CronExpression($cron))->getNextRunDate(\DateTime::createFromInterface($after)->setTimezone($this->zone), 0, false, $this->zone->getName()));
        } catch (\RuntimeException) {
            return null;
        }
    }

    private function last(string $cron, \DateTimeInterface $until): ?\DateTimeImmutable
    {
        try {
            return \DateTimeImmutable::createFromMutable((new CronExpression($cron))->getPreviousRunDate(\DateTime::createFromInterface($until)->setTimezone($this->zone), 0, true, $this->zone->getName()));
        } catch (\RuntimeException) {
            return null;
        }
    }

    /**
     * One event for each record that some of the starts are for, in natural order by type.
     *
     * @param  array<string, array<int, mixed>>  $due  as {@see due} gives them
     * @return list<Event>
     */
    public function events(array $due, RecordStore $store, string $at): array
    {
        $byRecord = [];
        foreach ($due as $key => $places) {
            $rule = $this->rulebook->rules[$key] ?? null;
            foreach ($rule->starts ?? [] as $start) {
                if ($start instanceof AtStart && isset($places[$start->place])) {
                    foreach ($rule->on ?? [] as $type) {
                        foreach ($this->records($start, $type, $store, $at) as $id) {
                            $byRecord[$type][$id][$key] ??= $start->place;
                        }
                    }
                }
            }
        }
        $events = [];
        foreach ($byRecord as $type => $records) {
            ksort($records, SORT_NATURAL);
            foreach ($records as $id => $rules) {
                $events[] = Event::scheduled((string) $type, (string) $id, $rules, $at);
            }
        }

        return $events;
    }

    /** @return list<string> ids of the records that a start is for */
    private function records(AtStart $start, string $type, RecordStore $store, string $at): array
    {
        $viewer = new Viewer($this->rulebook, $store);
        $of = $this->rulebook->types[$type];
        // the filter is the desk's own question, asked before there is an event on a record
        $event = Event::scheduled($type, '', [], $at);
        $conditions = isset($start->criteria[$type]) ? $start->criteria[$type]->conditions(new EventScope($event, $of, null, new \Sorvel\Core\Model\Record('', $type, []), $viewer), $viewer) : [];
        $ids = $conditions === null ? [] : $store->matching($type, $conditions);
        if ($start->for === null) {
            return $ids;
        }
        $found = [];
        foreach ($store->peek($ids) as $record) {
            if ($start->for->value(new EventScope($event, $of, $record, $record, $viewer), new Warnings) === true) {
                $found[] = $record->id;
            }
        }

        return $found;
    }
}
