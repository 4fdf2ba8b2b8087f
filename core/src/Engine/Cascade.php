<?php

declare(strict_types=1);

namespace Sorvel\Core\Engine;

use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Model\Dependency;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordStore;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Tally\Tallies;

/**
 * One event with its follow-ups (8 of "One event"): what other records take over from the one that changed is an event
 * on each of them, with its own passes. Writes to no store; what it came to is the caller's to save, in order.
 */
final class Cascade
{
    public const MAX_DEPTH = 5;

    public const MAX_RECORDS = 10_000;

    private readonly Engine $engine;

    private readonly Tallies $tallies;

    public function __construct(private readonly Rulebook $rulebook)
    {
        $this->engine = new Engine($rulebook);
        $this->tallies = new Tallies($rulebook);
    }

    /**
     * @param  array<string, list<Formula>>  $probes  by rule, for the event itself
     * @return non-empty-list<Outcome> that of the event, then those of other records that changed, in order
     */
    public function run(Event $event, RecordStore $store, TraceLevel $level = TraceLevel::Full, array $probes = []): array
    {
        $main = $this->engine->handle($event, $store, $level, $probes);
        if ($main->isRefused() || ($this->rulebook->dependencies === [] && $this->tallies->isEmpty())) {
            return [$main];
        }
        $overlay = new OverlayStore($store);
        $overlay->save($main->record);
        $others = [];
        $problems = [];
        $wave = [$main];
        $count = 0;
        for ($depth = 1; $wave !== []; $depth++) {
            $tallies = $this->tallies->moved($wave, $overlay);
            $ids = array_values(array_unique([...array_map(strval(...), array_keys($tallies)), ...$this->followers($wave, $overlay)]));
            if ($ids === []) {
                break;
            }
            $count += count($ids);
            if ($depth > self::MAX_DEPTH || $count > self::MAX_RECORDS) {
                // nothing of it is half done
                $others = [];
                $problems = [['rule' => null, 'field' => null, 'message' => $depth > self::MAX_DEPTH
                    ? sprintf('What follows from this goes on for more than %d records in a row; nothing of it was done. Records that take over from each other in a circle may be why.', self::MAX_DEPTH)
                    : sprintf('More than %s records would follow this; nothing of it was done.', number_format(self::MAX_RECORDS))]];
                break;
            }
            $overlay->hold($ids);
            $overlay->findMany($ids);
            $wave = [];
            foreach ($ids as $id) {
                $type = $overlay->find($id)->type ?? '';
                $outcome = $this->engine->handle(Event::followed($type, $id, $tallies[$id] ?? [], $event->at), $overlay, $level, [], $store);
                if ($outcome->isRefused()) {
                    $problems[] = ['rule' => null, 'field' => null, 'message' => sprintf('%s does not follow: %s', $id, implode(' ', array_column($outcome->refused, 'reason')))];
                } elseif ($outcome->changes !== []) {
                    $overlay->save($outcome->record);
                    $wave[] = $outcome;
                    $others[] = $outcome;
                }
            }
        }

        return [$problems === [] ? $main : $main->withProblems($problems), ...$others];
    }

    /**
     * Records that take something over from what has changed, each once.
     *
     * @param  non-empty-list<Outcome>  $wave
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
