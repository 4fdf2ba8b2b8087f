<?php

declare(strict_types=1);

namespace Sorvel\Core\Replay;

use Sorvel\Core\Engine\Cascade;
use Sorvel\Core\Engine\Engine;
use Sorvel\Core\Engine\Event;
use Sorvel\Core\Engine\Outcome;
use Sorvel\Core\Engine\RuleStatus;
use Sorvel\Core\Engine\TraceLevel;
use Sorvel\Core\Feel\Formula;
use Sorvel\Core\Feel\MapScope;
use Sorvel\Core\Feel\UnaryTests;
use Sorvel\Core\Feel\Values;
use Sorvel\Core\Feel\Warnings;
use Sorvel\Core\Format\InputError;
use Sorvel\Core\Format\RulebookBuilder;
use Sorvel\Core\Format\SampleBuilder;
use Sorvel\Core\Model\InMemoryStore;
use Sorvel\Core\Model\Misfit;
use Sorvel\Core\Model\Record;
use Sorvel\Core\Model\RecordType;
use Sorvel\Core\Model\Rulebook;
use Sorvel\Core\Model\Viewer;
use Sorvel\Core\Tally\Tallies;

/** Replays samples: each in a fresh store, on its own clock. The same sample gives the same bytes each time. */
final class SampleRunner
{
    private readonly Cascade $cascade;

    private readonly Engine $engine;

    /** @param  array<string, list<Formula>>  $probes  by rule: formulas to evaluate where that rule looks */
    public function __construct(private readonly Rulebook $rulebook, private readonly ?Coverage $coverage = null, private readonly array $probes = [])
    {
        $this->cascade = new Cascade($rulebook);
        $this->engine = new Engine($rulebook);
    }

    public function run(Sample $sample, TraceLevel $level = TraceLevel::Outcome): SampleResult
    {
        $strangers = SampleBuilder::strangers($sample, $this->rulebook);
        if ($strangers !== []) {
            return $this->broken($sample, array_map(fn (InputError $e): string => $e->path.': '.$e->message, $strangers));
        }
        $store = new InMemoryStore;
        $misfits = $this->give($sample, $store);
        if ($misfits !== []) {
            return $this->broken($sample, $misfits);
        }
        $clock = $sample->clock;
        $steps = [];
        $rules = [];
        $known = [];
        foreach ($sample->given as $records) {
            array_push($known, ...array_map(fn (array $r): string => (string) $r['id'], $records));
        }
        foreach ($sample->steps as $step) {
            if ($step->kind === StepKind::Clock) {
                $clock = $step->target;
                $steps[] = new StepResult(null, [], []);

                continue;
            }
            $result = $this->step($step, $store, $clock, $level, $known);
            foreach ($result->outcome->rules ?? [] as $rule => $status) {
                $rules[$rule] = isset($rules[$rule]) ? $rules[$rule]->and($status) : $status;
            }
            $steps[] = $result;
        }
        $agrees = array_filter($steps, fn (StepResult $s): bool => $s->differences !== []) === [];

        return new SampleResult($sample->key, $agrees ? Verdict::Agrees : Verdict::Differs, [], $steps, $rules);
    }

    /** @param  list<string>  $why */
    private function broken(Sample $sample, array $why): SampleResult
    {
        return new SampleResult($sample->key, Verdict::Broken, $why, [], []);
    }

    /** @return list<string> values that do not fit */
    private function give(Sample $sample, InMemoryStore $store): array
    {
        $misfits = [];
        foreach ($sample->given as $type => $records) {
            foreach ($records as $record) {
                $store->save(new Record((string) $record['id'], (string) $type, []));
            }
        }
        $viewer = new Viewer($this->rulebook, $store);
        foreach ($sample->given as $typeKey => $records) {
            $type = $this->rulebook->types[$typeKey];
            foreach ($records as $i => $values) {
                $record = $this->blank((string) $values['id'], $type);
                unset($values['id']);
                foreach ($values as $key => $value) {
                    $field = $type->fields[$key];
                    try {
                        $record = $record->with((string) $key, Record::isEmpty($value) ? null : $field->kind->fit($value, $field, $viewer, byRule: false));
                    } catch (Misfit $misfit) {
                        $misfits[] = sprintf('/given/%s/%d/%s: %s', $typeKey, $i, $key, $misfit->getMessage());
                    }
                }
                $store->save($record);
            }
        }

        foreach ($sample->given as $records) {
            foreach ($records as $values) {
                $record = $store->find((string) $values['id']);
                if ($record !== null) {
                    $store->save($this->engine->derived($record, $store, $sample->clock));
                }
            }
        }

        $tallies = new Tallies($this->rulebook);
        foreach ($tallies->isEmpty() ? [] : $sample->given as $records) {
            foreach ($records as $values) {
                $record = $store->find((string) $values['id']);
                foreach ($record === null ? [] : $this->rulebook->types[$record->type]->fields as $field) {
                    if ($field->tally !== null && $record !== null) {
                        $store->save($record = $record->with($field->key, $tallies->recount($field, $record, $store)));
                    }
                }
            }
        }

        return $misfits;
    }

    private function blank(string $id, RecordType $type): Record
    {
        $record = new Record($id, $type->key, []);

        return $type->isTicket ? $record->with('number', $id)->with('state', $type->firstState()) : $record;
    }

    /** @param  list<string>  $known ids to show the values of */
    private function step(Step $step, InMemoryStore $store, string $clock, TraceLevel $level, array &$known): StepResult
    {
        $differences = [];
        $outcome = null;
        for ($i = 1; $i <= $step->repeat; $i++) {
            $event = $this->event($step, $i, $store, $clock);
            $outcomes = $this->cascade->run($event, $store, $level, $this->probes);
            $outcome = $outcomes[0];
            foreach ($outcomes as $each) {
                if (! $each->isRefused()) {
                    $store->save($each->record);
                }
                $this->coverage?->take($each);
            }
            $aliases = $step->as !== null && $event->id !== $step->as ? [$step->as => $event->id] : [];
            if ($i === 1 || $differences === []) {
                $differences = $this->compare($step->expect, $outcome, $store, $aliases);
            }
            if ($i === 1) {
                $known[] = $event->id;
            }
        }
        $values = [];
        foreach (array_unique($known) as $id) {
            $record = $store->find($id);
            if ($record !== null) {
                $values[$id] = Record::json($record->values);
            }
        }

        return new StepResult($outcome, $differences, $values);
    }

    private function event(Step $step, int $repetition, InMemoryStore $store, string $clock): Event
    {
        if ($step->kind === StepKind::Change) {
            $type = $store->find($step->target)->type ?? '';

            return Event::changed($type, $step->target, $step->with, $step->by, $clock);
        }
        $type = $this->rulebook->types[$step->target];
        $id = $step->as === null || $repetition > 1 ? $store->newId($type) : $step->as;

        return Event::created($type->key, $id, $step->with, $step->by, $clock);
    }

    /**
     * @param  array<string, string>  $aliases  an id as the sample names it, to the record it stands for now
     * @return list<Difference>
     */
    private function compare(Expectation $expect, Outcome $outcome, InMemoryStore $store, array $aliases): array
    {
        $differences = [];
        foreach ($expect->records as $id => $fields) {
            $record = $store->find($aliases[$id] ?? (string) $id);
            foreach ($fields as $key => $expected) {
                $actual = $record?->value((string) $key);
                if ($record === null || ! $this->fits($expected, $actual, $record, (string) $key, $store)) {
                    $differences[] = new Difference((string) $id, (string) $key, $expected, Record::plain($actual));
                }
            }
        }
        foreach ($expect->acted as $rule) {
            $status = $outcome->rules[$rule] ?? null;
            if ($status === null || ! $status->reachedRow() || $status === RuleStatus::Problem && ! in_array($rule, $expect->problems, true)) {
                $differences[] = new Difference(null, 'acted', $rule, $status->value ?? 'not due');
            }
        }
        foreach ($expect->still as $rule) {
            $status = $outcome->rules[$rule] ?? null;
            if ($status?->reachedRow() === true) {
                $differences[] = new Difference(null, 'still', $rule, $status->value);
            }
        }
        $problems = array_values(array_unique(array_map(fn (array $p): string => $p['rule'] ?? 'desk', $outcome->problems)));
        if (array_diff($problems, $expect->problems) !== [] || array_diff($expect->problems, $problems) !== []) {
            $differences[] = new Difference(null, 'problems', $expect->problems, $problems);
        }

        return [...$differences, ...$this->refusal($expect->refused, $outcome)];
    }

    /** @return list<Difference> */
    private function refusal(bool|string|null $expected, Outcome $outcome): array
    {
        $reasons = array_column($outcome->refused, 'reason');
        $fits = match (true) {
            is_string($expected) => array_filter($reasons, fn (string $r): bool => str_contains($r, $expected)) !== [],
            default => ($expected ?? false) === $outcome->isRefused(),
        };

        return $fits ? [] : [new Difference(null, 'refused', $expected ?? false, $reasons === [] ? false : implode(' ', $reasons))];
    }

    private function fits(mixed $expected, mixed $actual, Record $record, string $key, InMemoryStore $store): bool
    {
        if (is_array($expected) && array_keys($expected) === ['test']) {
            $viewer = new Viewer($this->rulebook, $store);
            $field = $this->rulebook->types[$record->type]->fields[$key];
            $seen = $actual === null ? null : $field->kind->seen($actual, $field, $viewer, '');

            return UnaryTests::parse(RulebookBuilder::text($expected['test']))->hold($seen, new MapScope, new Warnings) === true;
        }
        $field = $this->rulebook->types[$record->type]->fields[$key];
        $value = Values::fromJson($expected);
        if (! $field->isPlain && ! Record::isEmpty($expected)) {
            // a moment or a duration can be written in several ways
            try {
                $value = $field->kind->fit($expected, $field, new Viewer($this->rulebook, $store), byRule: false);
            } catch (Misfit) {
                // then it is compared as it stands, and differs
            }
        }
        if (is_array($value) && is_array($actual)) {
            sort($value);
            sort($actual);
        }

        return Record::same($value, $actual);
    }
}
